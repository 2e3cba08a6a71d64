#!/usr/bin/env python3
"""Has the kernel keep uplinks below a rate, and says what each segment got while all of them were busy.

Reads from standard input {"script": TEXT, "nft": TEXT, "port": NAME, "inside": NAME, "hosts": [ADDRESS], "busy": [[INDEX, "down" | "up"]],
"kbps": NUMBER} and prints {"down": [KBPS], "up": [KBPS]}, by host. A router in a network namespace of its own has a cable (veth) to the inside,
where each host is of a segment, and one to the outside; the script of tc and the ruleset are run there, and every host that is busy sends, or is
sent, more datagrams than NUMBER kilobits a second. Queues are filled before anything is counted, and it is counted by the
moment at which the kernel took it in: a machine that is busy with something else for a second measures the same. Needs root, nft, tc and ip. Nothing
leaves the namespaces.
"""
import importlib.util, json, os, select, socket, struct, sys, time

here = os.path.dirname(os.path.abspath(__file__))
spec = importlib.util.spec_from_file_location("packet_lab", os.path.join(here, "packet-lab.py"))
lab = importlib.util.module_from_spec(spec)
spec.loader.exec_module(lab)

FAR = "198.51.100.9"
SIZE, STEP = 1172, 0.004  # octets of a datagram without its headers, and seconds between two bursts
WARM, COUNTED = 0.7, 2.0
MOST_OWED = 900  # datagrams: a queue of the kernel holds 1,000
ROOM = 8_000_000  # octets of a socket
SO_SNDBUFFORCE, SO_RCVBUFFORCE, SO_TIMESTAMPNS = 32, 33, 35


def send(namespace, source, target, port, kbps):
    """In a process of its own, until it is ended."""
    child = os.fork()
    if child:
        return child
    with namespace:
        wire = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        wire.bind((source, 0))
        wire.setsockopt(socket.SOL_SOCKET, SO_SNDBUFFORCE, ROOM)
        wire.setblocking(False)
    owed, last, data = MOST_OWED * 1200.0, time.monotonic(), b"\0" * SIZE
    while True:
        now = time.monotonic()
        owed = min(owed + (now - last) * kbps * 125, MOST_OWED * 1200)
        last = now
        while owed >= 1200:
            owed -= 1200
            try:
                wire.sendto(data, (target, port))
            except (BlockingIOError, OSError):
                pass
        time.sleep(STEP)


def main():
    job = json.load(sys.stdin)
    router, near, far = lab.Namespace(), lab.Namespace(), lab.Namespace()
    for name, own, namespace in ((job["inside"], "10.255.255.1/8", near), (job["port"], "198.51.100.1/24", far)):
        router.run("ip", "link", "add", name, "type", "veth", "peer", "name", "end", "netns", namespace.path)
        router.run("ip", "address", "add", own, "dev", name)
        router.run("ip", "link", "set", name, "up")
        namespace.run("ip", "link", "set", "end", "up")
    router.set("ipv4/ip_forward", "1")
    for host in job["hosts"]:
        near.run("ip", "address", "add", host + "/8", "dev", "end")
    near.run("ip", "route", "add", "default", "via", "10.255.255.1")
    far.run("ip", "address", "add", FAR + "/24", "dev", "end")
    far.run("ip", "route", "add", "default", "via", "198.51.100.1")
    router.run("nft", "-f", "-", text=job["nft"])
    # Twice: whoever runs it again is not told that something is there already.
    for _ in range(2):
        router.run("sh", "-s", text=job["script"])
    taking = {}
    for number, (index, way) in enumerate(job["busy"]):
        with (near if way == "down" else far):
            wire = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
            wire.setsockopt(socket.SOL_SOCKET, SO_RCVBUFFORCE, ROOM)
            wire.setsockopt(socket.SOL_SOCKET, SO_TIMESTAMPNS, 1)
            wire.bind((job["hosts"][index] if way == "down" else FAR, 7000 + number))
            taking[wire] = (index, way)
    children = []
    try:
        for number, (index, way) in enumerate(job["busy"]):
            host = job["hosts"][index]
            ends = (far, FAR, host) if way == "down" else (near, host, FAR)
            children.append(send(*ends, 7000 + number, job["kbps"]))
        got = {"down": [0] * len(job["hosts"]), "up": [0] * len(job["hosts"])}
        begin = time.time() + WARM
        over = set()  # sockets from which nothing is to be counted any more
        while len(over) < len(taking):
            found = select.select([wire for wire in taking if wire not in over], [], [], 0.05)[0]
            if not found and time.time() > begin + COUNTED:
                break
            for wire in found:
                data, notes, _flags, _from = wire.recvmsg(2048, 64)
                seconds, nanoseconds = struct.unpack("qq", notes[0][2])
                at = seconds + nanoseconds / 1e9
                if at >= begin + COUNTED:
                    over.add(wire)
                elif at >= begin:
                    index, way = taking[wire]
                    got[way][index] += len(data) + 28
    finally:
        for child in children:
            os.kill(child, 9)
            os.waitpid(child, 0)
    json.dump({way: [round(octets * 8 / 1000 / COUNTED) for octets in each] for way, each in got.items()}, sys.stdout)


main()
