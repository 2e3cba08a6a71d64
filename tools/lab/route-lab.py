#!/usr/bin/env python3
"""Has the kernel look addresses up in its routing tables, and says where each would go.

Reads from standard input {"links": [{"port": NAME, "addresses": [PREFIX]}], "script": TEXT, "gets": [{"to": ADDRESS, "mark": NUMBER}]} and prints a list of
{"dev", "via"} for each of "gets": both null where the kernel drops it or knows no way, "via" null where it is on the link. A router in a network namespace of
its own has the links (cables, veth, whose far ends are up in a second one); the script of iproute2 is run there, and the kernel is asked (RTM_GETROUTE) without a packet
being sent. Needs root and ip. Nothing leaves the namespace.
"""
import importlib.util, json, os, re, subprocess, sys

here = os.path.dirname(os.path.abspath(__file__))
spec = importlib.util.spec_from_file_location("packet_lab", os.path.join(here, "packet-lab.py"))
lab = importlib.util.module_from_spec(spec)
spec.loader.exec_module(lab)


def main():
    job = json.load(sys.stdin)
    router, far = lab.Namespace(), lab.Namespace()
    router.run("ip", "link", "set", "lo", "up")
    for i, each in enumerate(job["links"]):
        end = "far%d" % i
        router.run("ip", "link", "add", each["port"], "type", "veth", "peer", "name", end, "netns", far.path)
        far.run("ip", "link", "set", end, "up")
        router.run("ip", "link", "set", each["port"], "up")
        for address in each["addresses"]:
            router.run("ip", "address", "add", address, "dev", each["port"], "nodad") if ":" in address else router.run(
                "ip", "address", "add", address, "dev", each["port"]
            )
    router.run("sh", "-s", text=job["script"])
    lines = ["route get %s%s" % (get["to"], " mark %d" % get["mark"] if get.get("mark") else "") for get in job["gets"]]
    with router:
        asked = subprocess.run(["ip", "-json", "-force", "-batch", "-"], input="\n".join(lines) + "\n", capture_output=True, text=True)
    failed = {int(line) for line in re.findall(r"^Command failed -:(\d+)", asked.stderr, re.M)}
    answers = iter(json.loads(line) for line in asked.stdout.splitlines() if line.startswith("["))
    found = []
    for at in range(1, len(lines) + 1):
        if at in failed:
            found.append({"dev": None, "via": None})
            continue
        (answer,) = next(answers)
        found.append({"dev": answer.get("dev"), "via": answer.get("gateway")})
    json.dump(found, sys.stdout)


main()
