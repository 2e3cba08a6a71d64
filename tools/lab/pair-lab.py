#!/usr/bin/env python3
"""Has two gateways take turns by their files, as keepalived reads them, and says who holds the shared addresses when.

Reads from standard input {"gateways": [{"config": TEXT, "script": TEXT or null, "own": ADDRESS/LENGTH}], "at": INTERFACE, "others": [INTERFACE], "shared": [ADDRESS],
"steps": [{"do": "kill" | "start" | "unplug" | "plug" | "calm", "who": INDEX, "until": INDEX, "seconds": N}]} and prints {"flaws": [TEXT], "waits": [SECONDS or null],
"holds": [[[ADDRESS]]]}: what the parser says of each file (nothing: it takes it whole), for each step how long it took until whoever is named held all shared
addresses, and which of them each gateway holds then. `unplug` takes the provider of a gateway away, so that what it tracks does not answer. Each gateway is in a network
namespace of its own; the two are cabled to each other, and each to a provider. Needs root, keepalived, ping and ip. Nothing leaves the namespaces.
"""
import importlib.util, json, os, signal, subprocess, sys, tempfile, time

here = os.path.dirname(os.path.abspath(__file__))
spec = importlib.util.spec_from_file_location("packet_lab", os.path.join(here, "packet-lab.py"))
lab = importlib.util.module_from_spec(spec)
spec.loader.exec_module(lab)
SCRIPT = "/etc/keepalived/uplinks.sh"


class Gateway:
    def __init__(self, index, gateway, folder):
        self.index, self.space, self.folder, self.program = index, lab.Namespace(), folder, None
        self.provider = lab.Namespace()
        self.file = os.path.join(folder, "pair%d.conf" % index)
        script = os.path.join(folder, "uplinks%d.sh" % index)
        with open(self.file, "w") as file:
            file.write(gateway["config"].replace(SCRIPT, script))
        with open(script, "w") as file:
            file.write(gateway["script"] or "")
        os.chmod(script, 0o700)

    def check(self):
        with self.space:
            done = subprocess.run(["keepalived", "--config-test", "-f", self.file], capture_output=True, text=True)
        return "" if done.returncode == 0 and not done.stderr.strip() else "%d %s" % (done.returncode, done.stderr.strip())

    def start(self):
        pids = [os.path.join(self.folder, "%s%d.pid" % (kind, self.index)) for kind in ("main", "vrrp")]
        with self.space:
            self.program = subprocess.Popen(
                ["keepalived", "-n", "--vrrp", "-f", self.file, "-p", pids[0], "-r", pids[1]],
                stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True)

    def kill(self):
        """It loses its power: nothing says goodbye, and what it held is gone."""
        if self.program:
            os.killpg(self.program.pid, signal.SIGKILL)
            self.program.wait()
            self.program = None
        for name in os.listdir(self.folder):
            if name.endswith("%d.pid" % self.index):
                os.unlink(os.path.join(self.folder, name))
        for address, interface in self.addresses():
            if self.index is not None and address not in self.fixed:
                with self.space:
                    subprocess.run(["ip", "address", "del", address, "dev", interface])

    def addresses(self):
        with self.space:
            lines = subprocess.run(["ip", "-o", "-4", "address"], capture_output=True, text=True).stdout.splitlines()
        return [(words[3], words[1]) for words in (line.split() for line in lines)]


def main():
    job = json.load(sys.stdin)
    with tempfile.TemporaryDirectory() as folder:
        both = [Gateway(i, each, folder) for i, each in enumerate(job["gateways"])]
        one, other = both
        one.space.run("ip", "link", "add", job["at"], "type", "veth", "peer", "name", job["at"], "netns", other.space.path)
        for i, gateway in enumerate(both):
            gateway.space.run("ip", "link", "set", "lo", "up")
            for name in job["others"]:
                gateway.space.run("ip", "link", "add", name, "type", "veth", "peer", "name", name + "far")
                gateway.space.run("ip", "link", "set", name + "far", "up")
            gateway.space.run("ip", "link", "add", "wan1", "type", "veth", "peer", "name", "wan1", "netns", gateway.provider.path)
            gateway.space.run("ip", "address", "add", "203.0.113.%d/31" % (2 * i), "dev", "wan1")
            gateway.provider.run("ip", "address", "add", "203.0.113.%d/31" % (2 * i + 1), "dev", "wan1")
            gateway.space.run("ip", "address", "add", job["gateways"][i]["own"], "dev", job["at"])
            for name in [job["at"], "wan1"] + job["others"]:
                gateway.space.run("ip", "link", "set", name, "up")
            gateway.provider.run("ip", "link", "set", "wan1", "up")
            gateway.space.run("ip", "route", "add", "default", "via", "203.0.113.%d" % (2 * i + 1))
            gateway.fixed = [address for address, _ in gateway.addresses()]
        flaws = [gateway.check() for gateway in both]
        waits, holds = [], []
        try:
            for step in job["steps"]:
                gateway = both[step["who"]]
                began = time.time()
                if step["do"] in ("plug", "unplug"):
                    gateway.provider.run("ip", "link", "set", "wan1", "up" if step["do"] == "plug" else "down")
                elif step["do"] != "calm":
                    getattr(gateway, step["do"])()
                waits.append(waited(both[step["until"]], job["shared"], began, step["seconds"], step["do"] == "calm"))
                holds.append([[a for a, _ in each.addresses() if a in job["shared"]] for each in both])
        finally:
            for gateway in both:
                gateway.kill()
        json.dump({"flaws": flaws, "waits": waits, "holds": holds}, sys.stdout)


def waited(gateway, shared, began, most, whole):
    """How long it takes until a gateway holds all that is shared; null: it does not. @param whole: the time is waited for in any case."""
    while time.time() - began < most:
        if not whole and set(shared) <= {address for address, _ in gateway.addresses()}:
            return time.time() - began
        time.sleep(0.01)
    return most if set(shared) <= {address for address, _ in gateway.addresses()} else None


main()
