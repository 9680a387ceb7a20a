#!/usr/bin/env python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Which small faults in src/core does no test notice?

usage: scripts/unguarded.py [--seed N] [--count 40] [--path REGEX] [--ops REGEX] [--jobs 2]

Plants one fault at a time (a comparison, a sign, a condition...) and runs the test files that reach its line, the
quickest first, until one fails. Which files reach which line is found once, by a build that counts (build/reached);
remove build/reached.json to have it found anew. A fault takes some seconds, a survivor as long as all its tests do.
Each survivor is a behaviour that no test holds, or a change without effect: look before you decide. The tests call
the tool by its path, so every job has build/release/bin to itself, in a mount name space of its own (run as root).
"""
import argparse, concurrent.futures, glob, json, os, random, re, shlex, shutil, subprocess, sys, time

ROOT = os.path.dirname(os.path.dirname(os.path.abspath(__file__)))
RELEASE, REACHED = ROOT + "/build/release", ROOT + "/build/reached"
BIN = RELEASE + "/bin"
PROGRAMS = ["core_tests", "engine_tests", "tool_tests", "yewdrift-tool", "jack_tests", "sound_server_tests"]
SERVERS = "tool.servers_test"  # slow, and the only one that reaches the drivers of sound servers
MOST_SECONDS = 60  # of tests for one fault
FAULTS = [(" < ", " <= "), (" <= ", " < "), (" > ", " >= "), (" >= ", " > "), (" == ", " != "), (" != ", " == "),
          (r" \+ ", " - "), (" - ", " + "), (r" \+= ", " -= "), (r" \* ", " / "), (" && ", " || "), (r" \|\| ", " && "),
          (r"std::min\(", "std::max("), (r"std::max\(", "std::min("), (r"\btrue;", "false;"), (r"\bfalse;", "true;"),
          (r"\bif \((?!\w+ = )([^()]+)\) ", r"if (!(\1)) "), (r"\.0F\b", ".5F"), (r"\bcontinue;", "break;")]
PLAIN = ("//", "#", "template", "throw", "static_assert", "constexpr")  # lines that begin so are left alone


def environment(name, **more):
    own = f"/dev/shm/unguarded.{name}"
    os.makedirs(own, exist_ok=True)
    os.chmod(own, 0o1777)
    env = dict(os.environ, QT_QPA_PLATFORM="offscreen", TMPDIR=own, **more)
    env.pop("XDG_RUNTIME_DIR", None)
    return env


def run(command, env, seconds=None, cwd=ROOT):
    process = subprocess.Popen(command, cwd=cwd, env=env, stdout=subprocess.PIPE, stderr=subprocess.STDOUT,
                               text=True, errors="replace", start_new_session=True)
    try:
        out, _ = process.communicate(timeout=seconds)
        return process.returncode, out
    except subprocess.TimeoutExpired:
        os.killpg(process.pid, 9)
        process.communicate()
        return "timeout", ""


def built(*command):
    status, out = run(command, os.environ)
    if status:
        sys.exit(out[-3000:])
    return out


def test_command(entry):
    group, file = entry.split(".", 1)
    return [f"{BIN}/{group}_tests", "--filenames-as-tags", "-a", f"[#{file}]"]


# -- which test files reach which line, and how long they take

def reach(entry):
    counts = f"/dev/shm/unguarded.counts/{entry}"
    began = time.time()
    run(test_command(entry), environment("reach." + entry, GCOV_PREFIX=counts), 900)
    seconds = time.time() - began
    shutil.rmtree(f"/dev/shm/unguarded.reach.{entry}", True)
    data = glob.glob(counts + "/**/yewdrift_core.dir/**/*.gcda", recursive=True)
    for each in data:
        os.symlink("/" + os.path.relpath(each, counts)[:-4] + "gcno", each[:-4] + "gcno")
    lines = {}
    for first in range(0, len(data), 40):
        command = ["gcov", "--json-format", "--stdout", *data[first:first + 40]]
        out = subprocess.run(command, cwd=counts, capture_output=True, text=True, check=True).stdout
        for file in (f for doc in out.split("\n") if doc.startswith("{") for f in json.loads(doc)["files"]):
            if file["file"].startswith(ROOT + "/src/core") and file["file"].endswith(".cpp"):
                counted = lines.setdefault(os.path.relpath(file["file"], ROOT), {})
                for line in file["lines"]:
                    counted[line["line_number"]] = counted.get(line["line_number"], 0) + line["count"]
    shutil.rmtree(counts, True)
    return entry, seconds, lines


def find_reached():
    os.makedirs("/dev/shm/unguarded.counts", exist_ok=True)
    built("mount", "--bind", REACHED + "/bin", BIN)
    listed = built("ctest", "--test-dir", RELEASE, "-N", "-R", r"^(core|engine|tool)\.")
    entries = re.findall(r"Test +#\d+: (\S+)", listed)
    found, seconds = {}, {}
    with concurrent.futures.ThreadPoolExecutor(2) as pool:
        for entry, took, lines in pool.map(reach, entries):
            print(f"{entry} {took:.0f} s", flush=True)
            seconds[entry] = took
            for file, counted in lines.items():
                for line, count in counted.items():
                    reaching = found.setdefault(file, {}).setdefault(line, [])
                    if count:
                        reaching.append(entry)
    with open(ROOT + "/build/reached.json", "w") as out:
        json.dump({"reached": found, "seconds": seconds}, out)


# -- faults

def places(path, operators):
    found = []
    for file in sorted(glob.glob(ROOT + "/src/core/**/*.cpp", recursive=True)):
        if not re.search(path, os.path.relpath(file, ROOT)):
            continue
        for number, line in enumerate(open(file).read().split("\n")):
            text = line.strip()
            if not text or text.startswith(PLAIN) or '"' in text or "operator" in text:
                continue
            found += [(file, number, match.span(), old, new) for old, new in FAULTS if re.search(operators, old)
                      for match in re.finditer(old, line)]
    return found


def link_commands():
    commands = {}
    for program in PROGRAMS:
        last = built("ninja", "-C", RELEASE, "-t", "commands", program).strip().split("\n")[-1]
        commands[program] = last.replace(f"-o bin/{program} ", "-o @OUT@ ").replace("-DNDEBUG ", "-DNDEBUG @FAULT@ ", 1)
    return commands


def work(job, options):
    own = f"/dev/shm/unguarded.{job}"
    env = environment(job)
    shutil.copytree(BIN, own + "/whole")
    shutil.copytree(BIN, own + "/bin")
    built("mount", "--bind", own + "/bin", BIN)
    known = json.load(open(ROOT + "/build/reached.json"))
    seconds = known["seconds"]
    compiled = {each["file"]: each["command"] for each in json.load(open(RELEASE + "/compile_commands.json"))}
    links = link_commands()
    all_places = places(options.path, options.ops)
    random.Random(options.seed).shuffle(all_places)
    looked_at, noticed, survivors = set(), 0, 0
    for file, number, (start, end), old, new in all_places[job::options.jobs]:
        if noticed + survivors >= options.count / options.jobs:
            break
        if (file, number) in looked_at:
            continue
        looked_at.add((file, number))
        lines = open(file).read().split("\n")
        was = lines[number]
        lines[number] = was[:start] + re.sub(old, new, was[start:end]) + was[end:]
        relative = os.path.relpath(file, ROOT)
        source = own + "/" + os.path.basename(file)
        open(source, "w").write("\n".join(lines))
        command = [each for each in shlex.split(compiled[file]) if not each.endswith("ccache")]
        command[command.index("-o") + 1] = own + "/fault.o"
        command[command.index(file)] = source
        if run(command, env, 300, RELEASE)[0]:
            continue
        reached = known["reached"].get(relative, {})
        # A line of a statement that began above counts as that.
        tests = next((reached[str(n)] for n in range(number + 1, max(0, number - 6), -1) if str(n) in reached), [])
        drives = "/device/" in relative
        tests = sorted((t for t in tests if t != SERVERS), key=lambda t: seconds.get(t, 5)) + [SERVERS] * drives
        linked, by, spent = set(), None, 0.0
        for test in tests:
            if spent > MOST_SECONDS and test != SERVERS:
                continue
            programs = [test.split(".")[0] + "_tests"]
            if test.startswith("tool."):
                programs += PROGRAMS[3:] if test == SERVERS else PROGRAMS[3:4]
            for program in set(programs) - linked:
                os.remove(f"{BIN}/{program}")
                linking = links[program].replace("@FAULT@", own + "/fault.o").replace("@OUT@", f"{BIN}/{program}")
                if run(["bash", "-c", linking], env, 300, RELEASE)[0]:
                    sys.exit("cannot link " + program)
                linked.add(program)
            began = time.time()
            if run(test_command(test), env, 15 + 6 * seconds.get(test, 5))[0]:
                by = test
                break
            spent += time.time() - began
        for program in linked:
            os.remove(f"{BIN}/{program}")
            shutil.copy2(f"{own}/whole/{program}", f"{BIN}/{program}")
        noticed, survivors = noticed + (by is not None), survivors + (by is None)
        place = f"{relative}:{number + 1}: {was.strip()}  =>  {lines[number].strip()}"
        print(f"noticed by {by}  {place}" if by else f"SURVIVED {len(tests)} test files  {place}", flush=True)
    print(f"job {job}: {noticed} of {noticed + survivors} noticed", flush=True)


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seed", type=int, default=random.randrange(10 ** 6))
    parser.add_argument("--count", type=int, default=40)
    parser.add_argument("--path", default="")
    parser.add_argument("--ops", default="")
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument("--part", help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.part:  # in a name space of its own
        return find_reached() if options.part == "reached" else work(int(options.part), options)
    built("cmake", "--preset", "release")
    built("ninja", "-C", RELEASE, *PROGRAMS)
    again = ["unshare", "-m", sys.executable, "-u", os.path.abspath(__file__), "--seed", str(options.seed), "--count",
             str(options.count), "--path", options.path, "--ops", options.ops, "--jobs", str(options.jobs), "--part"]
    if not os.path.exists(ROOT + "/build/reached.json"):
        built("cmake", "-B", REACHED, "-G", "Ninja", "-DCMAKE_BUILD_TYPE=", "-DYEWDRIFT_BUILD_BENCH=OFF",
              "-DCMAKE_CXX_FLAGS=-O1 --coverage -fprofile-update=prefer-atomic -w", "-DYEWDRIFT_TEST_OBJECTS=" + RELEASE)
        built("ninja", "-C", REACHED, *PROGRAMS)
        subprocess.run([*again, "reached"], check=True)
    print("seed", options.seed, flush=True)
    jobs = [subprocess.Popen([*again, str(job)]) for job in range(options.jobs)]
    try:
        sys.exit(max(job.wait() for job in jobs))
    finally:
        for left in glob.glob("/dev/shm/unguarded.*"):
            shutil.rmtree(left, True)


main()
