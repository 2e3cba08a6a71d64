#!/usr/bin/env python3
"""Has the kernel choose the uplinks of flows, and says by which each left and with which address.

Reads from standard input {"script": TEXT, "nft": TEXT, "inside": PREFIX, "inside6": PREFIX, "own": ADDRESS, "uplinks": [{"port", "address", "address6", "cut": BOOL}], "packets": [...]}
and prints a list of {"port", "source", "destination", "dport"}, all null where nothing came out. A packet with "at" comes in by that uplink. A router in a network namespace of its own has one cable (veth) to
the inside and one for each uplink, whose far ends are in a second namespace; the script of iproute2 and the ruleset are run there, links are
cut, and packets go in from the inside. Packets are as packet-lab.py has them. Needs root, nft and ip. Nothing leaves the namespaces.
"""
import importlib.util, json, os, socket, struct, subprocess, sys

here = os.path.dirname(os.path.abspath(__file__))
spec = importlib.util.spec_from_file_location("packet_lab", os.path.join(here, "packet-lab.py"))
lab = importlib.util.module_from_spec(spec)
spec.loader.exec_module(lab)


def listener(namespace, name):
    with namespace:
        wire = socket.socket(socket.AF_PACKET, socket.SOCK_RAW, socket.htons(0x0003))
        wire.setsockopt(socket.SOL_SOCKET, 33, 1 << 24)  # SO_RCVBUFFORCE
        wire.bind((name, 0x0003))
        wire.setblocking(False)
    return wire


def settle(router, port):
    """The kernel takes note of a link that is gone a moment later."""
    for _ in range(200):
        with router:
            shown = subprocess.run(["ip", "-o", "link", "show", port], capture_output=True, text=True).stdout
        if "state DOWN" in shown:
            return
    lab.fail("the link %s does not go down" % port)


def main():
    job = json.load(sys.stdin)
    os.sched_setaffinity(0, {min(os.sched_getaffinity(0))})
    router, outside = lab.Namespace(), lab.Namespace()
    router.run("ip", "link", "set", "lo", "up")
    ports = ["inside"] + [each["port"] for each in job["uplinks"]]
    wires = []
    for i, port in enumerate(ports):
        far = "far%d" % i
        router.run("ip", "link", "add", port, "address", "02:00:00:00:00:%02x" % i, "type", "veth", "peer", "name", far, "netns", outside.path)
        router.run("ip", "link", "set", port, "arp", "off", "up")
        outside.set("ipv6/conf/%s/disable_ipv6" % far, "1")
        outside.run("ip", "link", "set", far, "arp", "off", "up")
        router.set("ipv4/conf/%s/rp_filter" % port, "0")
        router.set("ipv6/conf/%s/accept_dad" % port, "0")
        wires.append(listener(outside, far))
    router.set("ipv4/conf/all/rp_filter", "0")
    router.set("ipv4/ip_forward", "1")
    router.run("ip", "route", "add", job["inside"], "dev", "inside")
    if "own" in job:
        router.run("ip", "address", "add", job["own"], "dev", "inside")
    for each in job["uplinks"]:
        router.run("ip", "address", "add", each["address"], "dev", each["port"])
    if "inside6" in job:
        router.set("ipv6/conf/all/forwarding", "1")
        router.run("ip", "-6", "route", "add", job["inside6"], "dev", "inside")
        for each in job["uplinks"]:
            if "address6" in each:
                router.run("ip", "-6", "address", "add", each["address6"], "dev", each["port"], "nodad")
    router.run("nft", "-f", "-", text=job["nft"])
    # Twice: whoever runs it again is not told that something is there already.
    for _ in range(2):
        router.run("sh", "-s", text=job["script"])
    for i, each in enumerate(job["uplinks"]):
        if each.get("cut"):
            outside.run("ip", "link", "set", "far%d" % (i + 1), "down")
            settle(router, each["port"])
    gates = []
    for port in ports:
        with router:
            gate = socket.socket(socket.AF_PACKET, socket.SOCK_RAW, socket.htons(lab.BARRIER))
            gate.bind((port, lab.BARRIER))
            gate.settimeout(10)
            gates.append(gate)
    barrier = b"\xff" * 6 + b"\x02" + b"\0" * 5 + struct.pack("!H", lab.BARRIER) + b"\0" * 46
    out = [{"port": None, "source": None, "destination": None, "dport": None} for _ in job["packets"]]
    for start in range(0, len(job["packets"]), lab.BATCH):
        for number in range(start, min(start + lab.BATCH, len(job["packets"]))):
            kind, data = lab.build(job["packets"][number], number)
            at = ports.index(job["packets"][number].get("at", "inside"))
            wires[at].send(bytes([2, 0, 0, 0, 0, at]) + b"\x02\x11\0\0\0\0" + struct.pack("!H", kind) + data)
        # What came in by an uplink is through once a barrier is that was sent there behind it.
        for i, wire in enumerate(wires):
            try:
                wire.send(barrier)
            except OSError:  # a link that is cut
                continue
            gates[i].recv(2048)
        for i, wire in enumerate(wires):
            while True:
                try:
                    data, where = wire.recvfrom(4096)
                except BlockingIOError:
                    break
                except OSError:  # a link that is cut
                    break
                at = data.find(lab.MAGIC) + len(lab.MAGIC)
                if where[2] == 4 or at < len(lab.MAGIC) or len(data) < at + 4:
                    continue
                number = struct.unpack("!I", data[at:at + 4])[0]
                # What the router itself says of a packet (ICMP) is not the packet.
                if data[12:14] == b"\x86\xdd":
                    if data[20] == job["packets"][number].get("protocol", 6):
                        out[number] = {"port": ports[i], "source": socket.inet_ntop(socket.AF_INET6, data[22:38]),
                                       "destination": socket.inet_ntop(socket.AF_INET6, data[38:54]), "dport": struct.unpack("!H", data[56:58])[0]}
                elif data[23] == job["packets"][number].get("protocol", 6):
                    out[number] = {"port": ports[i], "source": socket.inet_ntoa(data[26:30]), "destination": socket.inet_ntoa(data[30:34]),
                                   "dport": struct.unpack("!H", data[36:38])[0]}
    json.dump(out, sys.stdout)


main()
