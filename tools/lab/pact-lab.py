#!/usr/bin/env python3
"""Has strongSwan agree on tunnels by pairs of files, and says what came of each.

Reads from standard input {"addresses": [ADDRESS, ADDRESS], "inside": [[ADDRESS], [ADDRESS]], "pairs": [{"files": [TEXT, TEXT], "calls": NAME, "renews": BOOL,
"hidden": BOOL, "asks": [ADDRESS, ADDRESS]}]} and prints {"results": [{"ike", "esp", "here", "there", "renewed", "answers", "said"}]}: what the first gateway of each pair has agreed on with the second once it called, as
strongSwan calls it, whether keys of packets could be made anew, whether somebody inside the first came to somebody inside the second, and what was said
where it failed. Both gateways are in network namespaces of their own,
cabled to a third; of a pair that is hidden the first gateway's address is translated on the way. Packets are carried outside the kernel. Needs root,
charon-systemd, swanctl, nft and ip, and /dev/net/tun. Nothing leaves the namespaces.
"""
import importlib.util, json, os, re, socket, subprocess, sys, tempfile, time

here = os.path.dirname(os.path.abspath(__file__))
spec = importlib.util.spec_from_file_location("packet_lab", os.path.join(here, "packet-lab.py"))
lab = importlib.util.module_from_spec(spec)
spec.loader.exec_module(lab)
PORT = 7008
PLUGINS = "random nonce aes sha1 sha2 hmac kdf gcm chapoly curve25519 gmp openssl kernel-libipsec kernel-netlink socket-default vici"


class Gateway:
    """A strongSwan in a namespace."""

    def __init__(self, place, space, name):
        self.space, self.folder = space, os.path.join(place, name)
        os.mkdir(self.folder)
        self.socket, self.log = os.path.join(self.folder, "vici"), os.path.join(self.folder, "log")
        with open(os.path.join(self.folder, "strongswan.conf"), "w") as file:
            file.write("""charon-systemd {
  load = %s
  retransmit_tries = 2
  retransmit_timeout = 0.5
  syslog { daemon { default = -1 } }
  filelog { log { path = %s
    default = 1
    flush_line = yes } }
  journal { default = -1 }
  plugins { vici { socket = unix://%s } }
}
""" % (PLUGINS, self.log, self.socket))
        environment = dict(os.environ, STRONGSWAN_CONF=os.path.join(self.folder, "strongswan.conf"))
        self.environment = environment
        with space:
            self.program = subprocess.Popen(["/usr/sbin/charon-systemd"], env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        for _ in range(300):
            if os.path.exists(self.socket):
                return
            time.sleep(0.02)
        raise RuntimeError("strongSwan did not begin: " + self.said())

    def said(self):
        return open(self.log).read() if os.path.exists(self.log) else ""

    def tell(self, *words):
        with self.space:
            done = subprocess.run(["swanctl", *words, "--uri", "unix://" + self.socket], env=self.environment, capture_output=True, text=True, timeout=30)
        return done.returncode, done.stdout + done.stderr

    def load(self, text):
        """Reads a file as it is, and forgets the last one."""
        path = os.path.join(self.folder, "swanctl.conf")
        with open(path, "w") as file:
            file.write(text)
        for what in ("--load-creds", "--load-conns"):
            code, out = self.tell(what, "--clear" if what == "--load-creds" else "--debug", *([] if what == "--load-creds" else ["0"]), "--file", path)
            if code != 0:
                raise RuntimeError("swanctl turned a file down: " + out + text)

    def forget(self):
        """Ends all that stands."""
        for name in set(re.findall(r"^(\S+): #\d+, ", self.tell("--list-sas")[1], re.M)):
            self.tell("--terminate", "--ike", name, "--force", "--timeout", "2")

    def end(self):
        self.program.terminate()
        self.program.wait()


def wait(check, seconds=10):
    until = time.time() + seconds
    while time.time() < until:
        found = check()
        if found:
            return found
        time.sleep(0.05)
    return None


def tried(first, second, pair):
    # Nobody calls by itself here.
    quiet = [text.replace("start_action = start", "start_action = none").replace("dpd_action = restart", "dpd_action = clear") for text in pair["files"]]
    for gateway in (first, second):
        gateway.forget()
    first.load(quiet[0])
    second.load(quiet[1])
    before = len(first.said())
    first.tell("--initiate", "--child", pair["calls"], "--timeout", "8")
    listed = first.tell("--list-sas")[1]
    said = first.said()[before:]
    agreed = re.search(r"selected proposal: IKE:(\S+)", said)
    packets = re.search(r"TUNNEL(-in-UDP)?, ESP:([A-Z0-9_/-]+)", listed)
    inside = [re.findall(r"^    %s +(\S.*)$" % side, listed, re.M) for side in ("local", "remote")]
    result = {
        "ike": agreed and agreed.group(1),
        "esp": packets and packets.group(2),
        "udp": bool(packets and packets.group(1)),
        "here": sorted(inside[0][-1].split()) if packets and inside[0] else [],
        "there": sorted(inside[1][-1].split()) if packets and inside[1] else [],
        "said": sorted(set(re.findall(r"N\(([A-Z_]+)\)", said)) & {"NO_PROP", "AUTH_FAILED", "TS_UNACCEPT", "INVAL_KE"}),
    }
    if packets and pair.get("renews"):
        before = len(first.said())
        first.tell("--rekey", "--child", pair["calls"])
        done = lambda: re.search(r"CHILD_SA \S+ established|NO_PROP|failed to establish|rekeying failed|retry", first.said()[before:])
        found = wait(done)
        result["renewed"] = bool(found and "established" in found.group(0))
    if pair.get("asks"):
        result["answers"] = carried(first, second, *pair["asks"])
    return result


def carried(first, second, source, target):
    """Whether a call from an address behind the first comes to one behind the second, as itself."""
    with second.space:
        door = socket.socket()
        door.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        door.bind((target, PORT))
        door.listen(4)
        door.setblocking(False)
    with first.space:
        caller = socket.socket()
        caller.bind((source, 0))
        caller.setblocking(False)
        caller.connect_ex((target, PORT))

    def come():
        try:
            return door.accept()[1][0]
        except BlockingIOError:
            return None

    found = wait(come, 4)
    caller.close()
    door.close()
    return found == source


def main():
    job = json.load(sys.stdin)
    middle, spaces = lab.Namespace(), [lab.Namespace(), lab.Namespace()]
    middle.run("ip", "link", "set", "lo", "up")
    middle.set("ipv4/ip_forward", "1")
    gateways = []
    with tempfile.TemporaryDirectory() as place:
        try:
            for i, (space, address) in enumerate(zip(spaces, job["addresses"])):
                space.run("ip", "link", "set", "lo", "up")
                space.run("ip", "link", "add", "wan", "type", "veth", "peer", "name", "far%d" % i, "netns", middle.path)
                space.run("ip", "address", "add", address + "/31", "dev", "wan")
                space.run("ip", "link", "set", "wan", "up")
                last = address.rsplit(".", 1)
                far = "%s.%d" % (last[0], int(last[1]) ^ 1)
                middle.run("ip", "address", "add", far + "/31", "dev", "far%d" % i)
                middle.run("ip", "link", "set", "far%d" % i, "up")
                space.run("ip", "route", "add", "default", "via", far)
                for inside in job.get("inside", [[], []])[i]:
                    space.run("ip", "address", "add", inside + "/32", "dev", "lo")
                gateways.append(Gateway(place, space, "g%d" % i))
            results = []
            for pair in job["pairs"]:
                rules = "ip saddr %s masquerade\n" % job["addresses"][0] if pair.get("hidden") else ""
                middle.run("nft", "-f", "-", text="table ip hide\ndelete table ip hide\ntable ip hide {\nchain out {\ntype nat hook postrouting priority 100;\n%s}\n}\n" % rules)
                results.append(tried(*gateways, pair))
            json.dump({"results": results}, sys.stdout)
        finally:
            for gateway in gateways:
                gateway.end()


main()
