#!/usr/bin/env python3
"""Times this tree's benchmarks and another revision's in turn, and prints both and their ratio, number by number.

Each round runs one after the other, so that what else the machine does meets both; the middle of the rounds counts.
A number is known again by the words round it, so only what both revisions print alike is compared.
"""
import argparse
import re
import statistics
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
NUMBER = re.compile(r"(?<![\w.])\d+(?:\.\d+)?(?:e[+-]?\d+)?(?![\w.]*\d)")


def build(tree, what):
    print(f"building {what}", flush=True)
    for command in (["cmake", "--preset", "bench"], ["cmake", "--build", "build/bench", "--target", "jugend_bench"]):
        done = subprocess.run(command, cwd=tree, capture_output=True, text=True)
        if done.returncode:
            sys.exit(f"{' '.join(command)} failed in {tree}:\n{done.stdout}{done.stderr}")
    return tree / "build/bench/bench/jugend_bench"


def check_out(revision):
    """The revision's files, in a folder of its own beside the builds."""
    found = subprocess.run(["git", "rev-parse", "--verify", "--quiet", f"{revision}^{{commit}}"], cwd=ROOT,
                           capture_output=True, text=True)
    if found.returncode:
        sys.exit(f"./dev bench --against: no such revision: {revision}")
    commit = found.stdout.strip()
    tree = ROOT / "build/against" / commit[:12]
    if not (tree / "CMakePresets.json").exists():
        tree.mkdir(parents=True, exist_ok=True)
        archive = subprocess.run(["git", "archive", commit], cwd=ROOT, capture_output=True, check=True)
        subprocess.run(["tar", "x", "-C", tree], input=archive.stdout, check=True)
    return tree


def numbers_of(text):
    """Each number printed, by the line that it stands in and its place there."""
    found = {}
    for line in text.splitlines():
        words, values = NUMBER.sub("#", line).strip(), NUMBER.findall(line)
        at = 0
        while (words, at, 0) in found:  # the same words once more
            at += 1
        found.update({(words, at, i): float(v) for i, v in enumerate(values)})
    return found


def main():
    parser = argparse.ArgumentParser(prog="./dev bench --against", description=__doc__,
                                     formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("revision")
    parser.add_argument("bench", nargs="*", help="what the benchmarks are told: a group, or --benchmark_filter=PATTERN")
    parser.add_argument("--rounds", type=int, default=5)
    asked, rest = parser.parse_known_args()
    if asked.rounds < 1:
        parser.error("--rounds: at least 1")
    then = check_out(asked.revision)
    programs = {"now": build(ROOT, "this tree"), "then": build(then, asked.revision)}
    heard = {"now": [], "then": []}
    for turn in range(asked.rounds):
        for name in sorted(programs, reverse=turn % 2 == 1):
            done = subprocess.run([programs[name], *asked.bench, *rest], capture_output=True, text=True)
            if done.returncode:
                sys.exit(f"{name}: {done.stderr}")
            heard[name].append(numbers_of(done.stdout))
        print(f"round {turn + 1} of {asked.rounds} done", flush=True)

    print(f"{'now/then':>9} {'now':>12} {'then':>12}  what")
    for key in heard["now"][0]:
        series = {name: [r[key] for r in rounds if key in r] for name, rounds in heard.items()}
        if not series["then"] or len(set(series["now"] + series["then"])) == 1:
            continue  # printed by one alone, or no measure
        now, then = (statistics.median(series[name]) for name in ("now", "then"))
        words, place = key[0], key[2]
        parts = re.sub(r"\s+", " ", words).split("#")
        what = "#".join(parts[:place + 1]) + "[#]" + "#".join(parts[place + 1:])
        print(f"{now / then if then else float('nan'):9.3f} {now:12.5g} {then:12.5g}  {what}")


main()
