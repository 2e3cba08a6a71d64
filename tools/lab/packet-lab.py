#!/usr/bin/env python3
"""Sends packets for real through a ruleset in the kernel and says which come out.

Reads from standard input {"nft": TEXT, "legs": [{"name", "prefixes": [...]}], "packets": [...]} and prints a list of
"allow" and "deny". A router in a network namespace of its own has one cable (veth) for each leg to a second namespace;
a packet goes in at the leg whose prefix holds its source, and has to come out at the leg of its destination. Packets:
{"from", "to", "protocol": NUMBER, "port", "sourcePort", "type", "code", "dscp", "answer": BOOL}. Needs root, nft and ip.
The namespaces have no names: they end with this process. Nothing leaves them.
"""
import ctypes, ipaddress, json, os, select, socket, struct, subprocess, sys

CLONE_NEWNET = 0x40000000
MAGIC = b"IronLattice-lab:"
BARRIER = 0x88B5  # IEEE Std 802 local experimental EtherType 1
BATCH = 80
libc = ctypes.CDLL(None, use_errno=True)


def fail(words):
    print(words, file=sys.stderr)
    sys.exit(2)


class Namespace:
    """A network namespace that lives as long as its file descriptor."""

    def __init__(self):
        home = os.open("/proc/self/ns/net", os.O_RDONLY)
        if libc.unshare(CLONE_NEWNET):
            fail("a network namespace needs root: " + os.strerror(ctypes.get_errno()))
        self.fd = os.open("/proc/self/ns/net", os.O_RDONLY)
        self.path = "/proc/%d/fd/%d" % (os.getpid(), self.fd)
        libc.setns(home, CLONE_NEWNET)
        self.home = home

    def __enter__(self):
        libc.setns(self.fd, CLONE_NEWNET)

    def __exit__(self, *_):
        libc.setns(self.home, CLONE_NEWNET)

    def run(self, *args, text=None):
        with self:
            done = subprocess.run(args, input=text, capture_output=True, text=True)
        if done.returncode:
            fail("%s: %s" % (" ".join(args), done.stderr.strip()))

    def set(self, key, value):
        with self, open("/proc/sys/net/" + key, "w") as file:
            file.write(value)


def checksum(data):
    if len(data) % 2:
        data += b"\0"
    total = sum(struct.unpack("!%dH" % (len(data) // 2), data))
    while total >> 16:
        total = (total & 0xFFFF) + (total >> 16)
    return ~total & 0xFFFF


def build(packet, number):
    """The EtherType and bytes of an IP packet that carries its number."""
    source, to = ipaddress.ip_address(packet["from"]), ipaddress.ip_address(packet["to"])
    marks = packet.get("dscp", 0) << 2
    protocol, body = packet["protocol"], MAGIC + struct.pack("!I", number)
    pseudo = source.packed + to.packed
    length = lambda size: struct.pack("!BBH", 0, protocol, size) if source.version == 4 else struct.pack("!IHBB", size, 0, 0, protocol)
    ports = (packet.get("sourcePort", 0), packet.get("port", 0))
    if protocol == 6:
        flags = 0x12 if packet.get("answer") else 0x02  # SYN and ACK, or SYN
        make = lambda check: struct.pack("!HHIIBBHHH", *ports, 1, 1 if packet.get("answer") else 0, 0x50, flags, 8192, check, 0) + body
        rest = make(checksum(pseudo + length(20 + len(body)) + make(0)))
    elif protocol == 17:
        make = lambda check: struct.pack("!HHHH", *ports, 8 + len(body), check) + body
        rest = make(checksum(pseudo + length(8 + len(body)) + make(0)) or 0xFFFF)
    elif protocol == (1 if source.version == 4 else 58):
        # An echo and its answer have the same identifier; others do not look at it.
        make = lambda check: struct.pack("!BBHHH", packet.get("type", 0), packet.get("code", 0), check, packet.get("identifier", 1), 1) + body
        over = pseudo + length(8 + len(body)) if source.version == 6 else b""
        rest = make(checksum(over + make(0)))
    else:
        rest = struct.pack("!II", 0x00002000, number) + body  # reads as a plain header of GRE, too
    if source.version == 6:
        return 0x86DD, struct.pack("!IHBB", 6 << 28 | marks << 20, len(rest), protocol, 64) + source.packed + to.packed + rest
    head = lambda check: struct.pack("!BBHHHBBH", 0x45, marks, 20 + len(rest), number & 0xFFFF, 0, 64, protocol, check) + source.packed + to.packed
    return 0x0800, head(checksum(head(0))) + rest


def main():
    job = json.load(sys.stdin)
    # All on one processor: frames are then handled in the order in which they were sent.
    os.sched_setaffinity(0, {min(os.sched_getaffinity(0))})
    router, outside = Namespace(), Namespace()
    legs = job["legs"]
    sending, receiving = [], []
    for i, leg in enumerate(legs):
        name, far = "leg%d" % i, "far%d" % i
        router.run("ip", "link", "add", name, "address", "02:00:00:00:00:%02x" % i, "type", "veth", "peer", "name", far, "netns", outside.path)
        outside.set("ipv6/conf/%s/disable_ipv6" % far, "1")
        router.set("ipv6/conf/%s/accept_dad" % name, "0")
        router.run("ip", "link", "set", name, "arp", "off", "up")
        outside.run("ip", "link", "set", far, "arp", "off", "up")
        # An address of its own per leg, far from all that is sent, so that no packet is for the router itself.
        router.run("ip", "address", "add", "192.0.2.%d/32" % (i + 1), "dev", name)
        for prefix in leg["prefixes"]:
            router.run("ip", "-6" if ":" in prefix else "-4", "route", "add", prefix, "dev", name)
        with outside:
            wire = socket.socket(socket.AF_PACKET, socket.SOCK_RAW, socket.htons(0x0003))
            wire.setsockopt(socket.SOL_SOCKET, 33, 1 << 24)  # SO_RCVBUFFORCE
            wire.bind((far, 0x0003))
            wire.setblocking(False)
        sending.append(wire)
    for key in ("ipv4/conf/all/rp_filter", "ipv4/conf/default/rp_filter", "ipv4/conf/all/send_redirects"):
        router.set(key, "0")
    for i in range(len(legs)):
        router.set("ipv4/conf/leg%d/rp_filter" % i, "0")
        router.set("ipv4/conf/leg%d/send_redirects" % i, "0")
    router.set("ipv4/ip_forward", "1")
    router.set("ipv6/conf/all/forwarding", "1")
    router.run("nft", "-f", "-", text=job["nft"])
    with router:
        gate = socket.socket(socket.AF_PACKET, socket.SOCK_RAW, socket.htons(BARRIER))
        gate.bind(("leg0", BARRIER))
    prefixes = [(ipaddress.ip_network(prefix), i) for i, leg in enumerate(legs) for prefix in leg["prefixes"]]
    prefixes.sort(key=lambda each: -each[0].prefixlen)

    def leg_of(text):
        address = ipaddress.ip_address(text)
        for prefix, i in prefixes:
            if prefix.version == address.version and address in prefix:
                return i
        fail("no leg for " + text)

    def number_in(data):
        """Which packet a frame is; None for what the router itself says about one."""
        at = data.find(MAGIC) + len(MAGIC)
        if at < len(MAGIC) or len(data) < at + 4:
            return None
        number = struct.unpack("!I", data[at:at + 4])[0]
        to = ipaddress.ip_address(job["packets"][number]["to"]).packed
        return number if data[30:34] == to or data[38:54] == to else None

    came = {}

    def gather(until_barrier):
        while True:
            ready, _, _ = select.select(sending, [], [], 10)
            if not ready:
                fail("the lab waited in vain: a frame was lost")
            over = False
            for wire in ready:
                while True:
                    try:
                        data, where = wire.recvfrom(4096)
                    except BlockingIOError:
                        break
                    if where[2] == 4:  # what we sent ourselves
                        continue
                    if struct.unpack("!H", data[12:14])[0] == BARRIER:
                        over = True
                    number = number_in(data)
                    if number is not None:
                        came[number] = sending.index(wire)
            if over or not until_barrier:
                return

    barrier = b"\xff" * 6 + b"\x02" + b"\0" * 5 + struct.pack("!H", BARRIER) + b"\0" * 46
    packets = job["packets"]
    for start in range(0, len(packets), BATCH):
        for number in range(start, min(start + BATCH, len(packets))):
            leg = leg_of(packets[number]["from"])
            kind, data = build(packets[number], number)
            sending[leg].send(bytes([2, 0, 0, 0, 0, leg]) + b"\x02\x11\0\0\0\0" + struct.pack("!H", kind) + data)
        # When this frame is through in both directions, so are all that were sent before it.
        sending[0].send(barrier)
        gate.recv(2048)
        gate.send(barrier)
        gather(True)
    verdicts = []
    for number, packet in enumerate(packets):
        if number in came and came[number] != leg_of(packet["to"]):
            fail("packet %d came out at leg %d" % (number, came[number]))
        verdicts.append("allow" if number in came else "deny")
    json.dump(verdicts, sys.stdout)


if __name__ == "__main__":
    main()
