#!/usr/bin/env python3
"""Compiles and runs every block of C++ in README.md and docs/, and runs every command that they show, as printed.

  doc_blocks.py SOURCE BUILD COMPILER

A block's reader knows what stands round it; the compiler is told by a comment before it:
<!-- compiled with: ... -->. A line of output, which begins with "jugend: ", is held against the program's."""
import pathlib
import re
import shutil
import subprocess
import sys
import tempfile

source, build, compiler = pathlib.Path(sys.argv[1]), pathlib.Path(sys.argv[2]), sys.argv[3]
program = build / "jugend"
wrong = []
counted = {"C++": 0, "command": 0, "message": 0}


def run(arguments, **options):
    return subprocess.run(arguments, capture_output=True, text=True, **options)


def blocks(text):
    """Language, what it is compiled with, number of its line, and lines of each block."""
    prelude, language, inside, first = "", None, [], 0
    for number, line in enumerate(text.split("\n"), 1):
        if line.startswith("```"):
            if language is None:
                language, inside, first = line[3:], [], number
            else:
                yield language, prelude, first, inside
                language, prelude = None, ""
        elif language is not None:
            inside.append(line)
        elif found := re.match(r"<!-- compiled with: (.*) -->", line):
            prelude = found[1]


def compiled(place, prelude, lines, folder):
    includes = [line for line in lines if line.startswith("#include")]
    body = "\n".join(line for line in lines if not line.startswith("#include"))
    if not re.search(r"^[\w:<>&* ]+\(.*\) \{$", body, re.MULTILINE):
        body = "int main() {\n" + body + "\n}\n"
    elif "int main(" not in body:
        body += "\nint main() {}\n"
    if prelude.startswith("#include"):
        includes.append(prelude)
        prelude = ""
    (folder / "block.cpp").write_text("\n".join(includes) + "\n" + prelude + "\n" + body)
    made = run([compiler, "-std=c++20", "-I", source / "src", "-I", source, folder / "block.cpp", build / "libjugend.a",
                "-pthread", "-o", folder / "block"])
    if made.returncode != 0:
        wrong.append(f"{place}: does not compile\n{made.stderr[:2000]}")
    elif (ran := run([folder / "block"])).returncode != 0:
        wrong.append(f"{place}: exit {ran.returncode}\n{ran.stderr}")
    counted["C++"] += 1


def typed(place, line, folder):
    command = line.split("#")[0].strip().split()
    ran = run([program] + command[1:], cwd=folder)
    if ran.returncode != 0:
        wrong.append(f"{place}: {' '.join(command)}: exit {ran.returncode}\n{ran.stderr}")
    counted["command"] += 1


def told(place, line, folder):
    """A message about a misspelt key: its file, with the key as it was misspelt."""
    file, row, key = re.match(r"jugend: (\S+?):(\d+):\d+: (\S+): ", line).groups()
    nearest = line.rsplit("nearest: ", 1)[1]
    original = (folder / file).read_text()
    misspelt = original.split("\n")
    last, meant = key.split(".")[-1], nearest.split(".")[-1]
    misspelt[int(row) - 1] = misspelt[int(row) - 1].replace(meant, last, 1)
    (folder / file).write_text("\n".join(misspelt))
    ran = run([program, "run", "demo/quay_run.toml"], cwd=folder)
    (folder / file).write_text(original)
    if ran.stderr.strip() != line.strip() or ran.returncode != 2:
        wrong.append(f"{place}: the program says\n{ran.stderr}")
    counted["message"] += 1


with tempfile.TemporaryDirectory() as name:
    folder = pathlib.Path(name)
    shutil.copytree(source / "demo", folder / "demo")
    for file in [source / "README.md", *sorted((source / "docs").glob("*.md"))]:
        for language, prelude, first, lines in blocks(file.read_text()):
            place = f"{file.name}:{first}"
            if language == "cpp":
                compiled(place, prelude, lines, folder)
            for line in lines if language == "" else []:
                if line.startswith("jugend: "):
                    told(place, line, folder)
                elif line.startswith("jugend "):
                    typed(place, line, folder)
for fault in wrong:
    print(fault, file=sys.stderr)
print(", ".join(f"{count} of {kind}" for kind, count in counted.items()))
sys.exit(1 if wrong or not all(counted.values()) else 0)
