#!/usr/bin/env python3
"""Has WireGuard build the tunnels of gateways from their files, and says who gets an answer from where.

Reads from standard input {"gateways": [{"name", "own": PRIVATE KEY, "outside": ADDRESS, "hidden": BOOL, "inside": [ADDRESS], "mtu": N,
"interfaces": [{"config": TEXT, "leads": [{"prefix", "metric"}]}]}], "asks": [{"from": INDEX, "source": ADDRESS, "to": ADDRESS}]} and prints {"answers": [ADDRESS or null], "shakes": [[PUBLIC KEY]]}: for
each ask the address that was seen at the other end, and for each gateway the other ends that shook hands. Each gateway is in a network namespace of its
own, cabled to a router in another one, which translates the addresses of those that are hidden; wireguard-go carries the packets, `wg setconf` reads the
file. Needs root, wireguard-go, wg, nft and ip, and /dev/net/tun. Nothing leaves the namespaces.
"""
import importlib.util, json, os, socket, subprocess, sys, tempfile, time

here = os.path.dirname(os.path.abspath(__file__))
spec = importlib.util.spec_from_file_location("packet_lab", os.path.join(here, "packet-lab.py"))
lab = importlib.util.module_from_spec(spec)
spec.loader.exec_module(lab)
PORT = 7007
SHAKE_SECONDS = 15


def text(namespace, *args):
    with namespace:
        return subprocess.run(args, capture_output=True, text=True).stdout


def main():
    job = json.load(sys.stdin)
    middle = lab.Namespace()
    middle.run("ip", "link", "set", "lo", "up")
    middle.set("ipv4/ip_forward", "1")
    middle.set("ipv4/conf/all/rp_filter", "0")
    spaces, names, programs = [], [], []
    try:
        for i, gateway in enumerate(job["gateways"]):
            space, name = lab.Namespace(), "w%d.%d" % (os.getpid() % 100000, i)
            spaces.append(space)
            names.append(name)
            space.run("ip", "link", "set", "lo", "up")
            space.set("ipv4/ip_forward", "1")
            space.run("ip", "link", "add", "wan", "type", "veth", "peer", "name", "far%d" % i, "netns", middle.path)
            space.run("ip", "address", "add", gateway["outside"] + "/31", "dev", "wan")
            space.run("ip", "link", "set", "wan", "up")
            last = gateway["outside"].rsplit(".", 1)
            far = "%s.%d" % (last[0], int(last[1]) ^ 1)
            middle.run("ip", "address", "add", far + "/31", "dev", "far%d" % i)
            middle.run("ip", "link", "set", "far%d" % i, "up")
            space.run("ip", "route", "add", "default", "via", far)
            for address in gateway["inside"]:
                space.run("ip", "address", "add", address + "/32", "dev", "lo")
        hidden = [g["outside"] for g in job["gateways"] if g.get("hidden")]
        if hidden:
            rules = "".join("ip saddr %s masquerade\n" % each for each in hidden)
            middle.run("nft", "-f", "-", text="table ip hide {\nchain out {\ntype nat hook postrouting priority 100;\n%s}\n}\n" % rules)
        for space, name, gateway in zip(spaces, names, job["gateways"]):
            for j, each in enumerate(gateway["interfaces"]):
                programs.append(interface(space, "%s%s" % (name, "abcdefgh"[j]), gateway, each))
        doors = []
        for space, gateway in zip(spaces, job["gateways"]):
            with space:
                door = socket.socket()
                door.bind(("0.0.0.0", PORT))
                door.listen(16)
                door.setblocking(False)
                doors.append(door)
        owner = {address: i for i, g in enumerate(job["gateways"]) for address in g["inside"]}
        answers = [asked(spaces[each["from"]], doors[owner[each["to"]]] if each["to"] in owner else None, each) for each in job["asks"]]
        shakes = []
        for space, name in zip(spaces, names):
            lines = text(space, "wg", "show", "all", "latest-handshakes").split("\n")
            rows = [line.split("\t") for line in lines if line.startswith(name)]
            shakes.append(sorted(row[1] for row in rows if row[2] != "0"))
        json.dump({"answers": answers, "shakes": shakes}, sys.stdout)
    finally:
        for program in programs:
            program.terminate()
        for program in programs:
            program.wait()


def interface(space, name, gateway, each):
    """An interface with the tunnels of a file. Returns the program that carries its packets."""
    with space:
        program = subprocess.Popen(["wireguard-go", "-f", name], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    for _ in range(200):
        if os.path.exists("/var/run/wireguard/%s.sock" % name) and name in text(space, "ip", "-o", "link"):
            break
        time.sleep(0.02)
    for words in (["setconf", name], ["set", name, "private-key"]):
        with tempfile.NamedTemporaryFile("w") as file:
            file.write(each["config"] if words[0] == "setconf" else gateway["own"] + "\n")
            file.flush()
            space.run("wg", *words, file.name)
    space.run("ip", "link", "set", name, "mtu", str(gateway["mtu"]), "up")
    for line in each["leads"]:
        space.run("ip", "route", "add", line["prefix"], "dev", name, "metric", str(line["metric"] + 1), "src", gateway["inside"][0])
    return program


def asked(space, door, ask):
    """Whom the other end sees that takes a call; null: nobody came. The first packets wait for hands to be shaken."""
    with space:
        caller = socket.socket()
        caller.bind((ask["source"], 0))
        caller.setblocking(False)
        caller.connect_ex((ask["to"], PORT))
    until = time.time() + (SHAKE_SECONDS if ask.get("reached", True) else 2)
    while door and time.time() < until:
        try:
            taken, (address, _) = door.accept()
            taken.close()
            caller.close()
            return address
        except BlockingIOError:
            time.sleep(0.01)
    caller.close()
    return None


main()
