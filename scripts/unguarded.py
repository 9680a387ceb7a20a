#!/usr/bin/env python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Which small faults does no test notice, and which tests notice none that others do not?

usage: scripts/unguarded.py [--app] [--seed N] [--count 40] [--path REGEX] [--ops REGEX] [--all] [--again] [--servers]
                            [--without TEST]... [--slowest SECONDS] [--matrix]
       scripts/unguarded.py [--app] --reach | --report

Builds src/core (--app: src/app) once with thousands of small faults in it, each asleep until its number is named
(planted_faults.py), into build/faults (build/faults-app), and finds which test files reach which (--reach does that
anew, when tests changed much). Then wakes one after another and runs the test files that reach it until one fails: some
seconds a fault, a minute a survivor, which is a behaviour that no test holds, or a change without effect: look before
you decide. Known answers are kept in results.jsonl there and not asked for again; --again asks for the survivors, after
a test was written; --all keeps nothing and is a random sample, the same for the same seed. --without leaves a test file
out (core.time_test), as if it were deleted. --servers runs the tests on real sound servers, too, for the drivers
(a minute each). --matrix runs every test file that reaches a fault, to its end, and keeps in matrix.jsonl which test
cases noticed it; --report then tells of each case how many faults it noticed, and how many it alone did.
The tests call the tool by its path, so build/release/bin is theirs, in a mount name space of their own (run as root).
"""
import argparse, concurrent.futures, functools, glob, hashlib, json, os, random, re, shlex, shutil, subprocess, sys, threading, time

import planted_faults

ROOT = os.path.dirname(os.path.dirname(os.path.abspath(__file__)))
APP = "--app" in sys.argv
RELEASE, OUT = ROOT + "/build/release", ROOT + ("/build/faults-app" if APP else "/build/faults")
BIN = RELEASE + "/bin"
SOURCES = "/src/app/*/**/*.cpp" if APP else "/src/core/**/*.cpp"  # main programs have no faults
HEADERS = "/src/app/**/*.h" if APP else "/src/core/**/*.h"
LIBRARY = "libyewdrift_ui.a" if APP else "libyewdrift_core.a"
GROUPS = ("ui", "desk") if APP else ("core", "engine", "tool", "desk")
PROGRAMS = ["ui_tests", "desk_tests", "yewdrift-screenshots"] if APP else [
    "core_tests", "engine_tests", "tool_tests", "desk_tests", "yewdrift-tool", "jack_tests", "sound_server_tests"]
RANDOM = {"YEWDRIFT_RANDOM_DESK": "30"}  # sequences for one fault
SERVERS = "tool.servers_test"  # on real sound servers: slow, and not the same from once to the next
SERVERS_SECONDS = 100
MOST_SECONDS = 150  # of tests for one fault, as they take alone; the slowest, of disks and of programs killed, come last
QUICK = 0.6  # seconds; test files that take less are run together
JOBS = 5  # tests wait much
PER_FILE = 1000  # numbers
MORTAL = ["setpriv", "--pdeathsig", "KILL"]  # a fault that goes round for ever does not outlive who woke it


def run(command, env=None, seconds=None, cwd=ROOT):
    process = subprocess.Popen([*MORTAL, *command], cwd=cwd, env=env, stdout=subprocess.PIPE, stderr=subprocess.STDOUT,
                               text=True, errors="replace", start_new_session=True)
    try:
        out, _ = process.communicate(timeout=seconds)
        return process.returncode, out
    except subprocess.TimeoutExpired:
        os.killpg(process.pid, 9)
        process.communicate()
        return "timeout", ""


def built(*command, cwd=ROOT):
    status, out = run(command, cwd=cwd)
    if status:
        sys.exit(out[-3000:])
    return out


def write_if_new(path, text):
    if not os.path.exists(path) or open(path).read() != text:
        with open(path, "w") as out:
            out.write(text)


# -- the build with all faults

def build_file(index, file, command, headers):
    """The faults of a source that is compiled with them; lines that do not bear it are left as they are."""
    relative = os.path.relpath(file, ROOT)
    source = f"{OUT}/src/{relative.replace('/', '_')}"
    text, without = open(file).read(), set()
    made_of = hashlib.sha256("\0".join([headers, text, command, str(index)]).encode()).hexdigest()
    if os.path.exists(source + ".json"):
        known = json.load(open(source + ".json"))
        if known["of"] == made_of:
            return known["faults"]
    while True:
        planted, faults = planted_faults.planted(text, 1 + index * PER_FILE, without)
        write_if_new(source, f'#include "planted_faults.h"\n#line 1 "{source}"\n{planted}')
        compiling = [each for each in shlex.split(command) if each not in ("-Werror", "-O3")]
        compiling[compiling.index("-o") + 1] = source[:-4] + ".o"
        compiling[compiling.index(file)] = source
        status, out = run([*compiling, "-O2", "-w", "-fmax-errors=0", "-I" + OUT], None, 900, RELEASE)
        if status == 0:
            faults = [dict(each, file=relative) for each in faults]
            json.dump({"of": made_of, "faults": faults}, open(source + ".json", "w"))
            return faults
        bad = {int(n) for n in re.findall(re.escape(source) + r":(\d+):\d+:(?: error|   required from here)", out)}
        if not bad - without:
            sys.exit(out[-3000:])
        without |= bad


def compile_commands(files):
    """How each source is compiled alone. Where the release compiles folders at a time, a configuration that is never
    built tells."""
    def told(folder):
        return {each["file"]: each["command"] for each in json.load(open(folder + "/compile_commands.json"))}
    known = told(RELEASE)
    if all(file in known for file in files):
        return known
    built("cmake", "--preset", "release", "-B", OUT + "/alone", "-DYEWDRIFT_UNITY=OFF")
    return told(OUT + "/alone")


def build():
    os.makedirs(OUT + "/src", exist_ok=True)
    os.makedirs(OUT + "/bin", exist_ok=True)
    write_if_new(OUT + "/planted_faults.h", planted_faults.HEADER)
    files = sorted(set(glob.glob(ROOT + SOURCES, recursive=True)))
    compiled = compile_commands(files)
    headers = planted_faults.HEADER + "".join(
        open(each).read() for each in sorted(glob.glob(ROOT + HEADERS, recursive=True)))
    with concurrent.futures.ThreadPoolExecutor(2) as pool:
        found = pool.map(lambda each: build_file(*each, compiled[each[1]], headers), enumerate(files))
        faults = [fault for each in found for fault in each]
    json.dump(faults, open(OUT + "/faults.json", "w"))
    library = OUT + "/libfaults.a"
    if os.path.exists(library):
        os.remove(library)
    objects = [f"{OUT}/src/{os.path.relpath(file, ROOT).replace('/', '_')[:-4]}.o" for file in files]
    if APP:  # what Qt makes of its headers has no faults
        built("ar", "x", f"{RELEASE}/src/app/{LIBRARY}", "mocs_compilation.cpp.o", cwd=OUT)
        objects.append(OUT + "/mocs_compilation.cpp.o")
    built("ar", "rcs", library, *objects)
    for name in os.listdir(BIN):
        if name not in PROGRAMS:
            shutil.copy2(f"{BIN}/{name}", OUT + "/bin")
    for program in PROGRAMS:
        link = built("ninja", "-C", RELEASE, "-t", "commands", program).strip().split("\n")[-1]
        link = re.sub(r"\S*" + re.escape(LIBRARY), library, link)
        link = link.replace(f"-o bin/{program} ", f"-o {OUT}/bin/{program} ")
        built("bash", "-c", link, cwd=RELEASE)


# -- tests, in a name space where they are those with faults

def environment(name, **more):
    own = f"/dev/shm/unguarded.{name}"
    os.makedirs(own, exist_ok=True)
    os.chmod(own, 0o1777)
    env = dict(os.environ, QT_QPA_PLATFORM="offscreen", TMPDIR=own, **RANDOM, **more)
    env.pop("XDG_RUNTIME_DIR", None)
    return env


def command_of(tests):
    names = ",".join(f"[#{test.split('.', 1)[1]}]" for test in tests)
    return [f"{BIN}/{tests[0].split('.')[0]}_tests", "--filenames-as-tags", "-a", names]


@functools.cache
def names_of_cases(test):
    listed = run([*command_of([test]), "--list-test-names-only"], environment("names"))[1]
    return [name for name in listed.splitlines() if name.strip()]


def reach(test):
    told = environment("told." + test)["TMPDIR"]
    began = time.time()
    status, out = run(command_of([test]), environment("reach." + test, YEWDRIFT_REACHED=told), 900)
    if status:
        sys.exit(f"{test} fails without a fault:\n{out[-2000:]}")
    found = {"seconds": time.time() - began, "reached": set()}
    for file in os.listdir(told):
        found["reached"].update(i for i, seen in enumerate(open(f"{told}/{file}", "rb").read()) if seen)
    print(f"{test} {found['seconds']:.1f} s", flush=True)
    return test, dict(found, reached=sorted(found["reached"]))


def find_reached():
    listed = built("ctest", "--test-dir", RELEASE, "-N", "-R", "^(" + "|".join(GROUPS) + r")\.")
    with concurrent.futures.ThreadPoolExecutor(2) as pool:
        tests = [test for test in re.findall(r"Test +#\d+: (\S+)", listed) if test != SERVERS]
        found = dict(pool.map(reach, tests))
    json.dump(found, open(OUT + "/reached.json", "w"))


def key_of(fault):
    return f"{fault['file']}|{fault['was']}|{fault['now']}"


class Asking:
    def __init__(self, options):
        self.options = options
        # Of those that were asked what they reach, some may have been deleted.
        self.tests = {test: known for test, known in json.load(open(OUT + "/reached.json")).items()
                      if glob.glob(f"{ROOT}/tests/*/{test.split('.', 1)[1]}.cpp")}
        self.reaching = {}
        for test, known in self.tests.items():
            for number in known["reached"]:
                self.reaching.setdefault(number, []).append(test)
        self.known = {}
        if os.path.exists(OUT + "/results.jsonl"):
            for line in open(OUT + "/results.jsonl"):
                result = json.loads(line)
                self.known[result["key"]] = result
        self.hits = {}  # which tests noticed faults in a file, how often
        for result in self.known.values():
            self.hit(result["file"], result["by"])
        self.lock = threading.Lock()
        self.jobs = threading.local()
        self.names = iter(range(JOBS))
        self.noticed = self.asked = self.timeouts = 0

    def hit(self, file, test):
        if test and test not in ("senseless", "timeout"):
            counts = self.hits.setdefault(file, {})
            counts[test] = counts.get(test, 0) + 1

    def chosen(self):
        faults = [each for each in json.load(open(OUT + "/faults.json"))
                  if re.search(self.options.path, each["file"]) and re.search(self.options.ops, each["op"])]
        if self.options.again:
            faults = [each for each in faults if self.known.get(key_of(each), {"by": "?"})["by"] is None]
        elif not self.options.all:
            faults = [each for each in faults if key_of(each) not in self.known]
        random.Random(self.options.seed).shuffle(faults)
        return faults[:self.options.count]

    def groups(self, fault):
        """The quick ones first, together; then those that noticed faults in that file, then the others."""
        tests = [t for t in self.reaching.get(fault["fault"], [])
                 if t not in self.options.without and self.tests[t]["seconds"] <= self.options.slowest]
        quick = [[t for t in tests if t.startswith(group + ".") and self.tests[t]["seconds"] < QUICK]
                 for group in GROUPS]
        with self.lock:
            hits = dict(self.hits.get(fault["file"], {}))
        slow = sorted((t for t in tests if self.tests[t]["seconds"] >= QUICK),
                      key=lambda t: self.tests[t]["seconds"] / (1 + 4 * hits.get(t, 0)))
        servers = [[SERVERS]] if self.options.servers and "/device/" in fault["file"] else []
        return [each for each in quick if each] + [[t] for t in slow] + servers

    def cases_that_notice(self, fault, env):
        """Of every test file that reaches it: the names of the cases that fail, each run by itself."""
        cases = []
        for test in [test for tests in self.groups(fault) for test in tests]:
            seconds = 15 + 6 * self.tests[test]["seconds"]
            status, _ = run(command_of([test]), env, seconds)
            if status == 77:
                return None
            for name in names_of_cases(test) if status else []:
                escaped = re.sub(r"([\\,\[\]])", r"\\\1", name)
                if run([command_of([test])[0], "-a", escaped], env, seconds)[0]:
                    cases.append(f"{test}: {name}")
        return cases

    def note(self, fault):
        """A row of the matrix."""
        if not hasattr(self.jobs, "name"):
            with self.lock:
                self.jobs.name = f"job{next(self.names)}"
        cases = self.cases_that_notice(fault, environment(self.jobs.name, YEWDRIFT_FAULT=str(fault["fault"])))
        if cases is None:
            return
        with self.lock:
            self.asked, self.noticed = self.asked + 1, self.noticed + bool(cases)
            with open(OUT + "/matrix.jsonl", "a") as out:
                out.write(json.dumps({"key": key_of(fault), "file": fault["file"], "line": fault["line"],
                                      "cases": cases}) + "\n")
            if not cases:
                print(f"SURVIVED {fault['file']}:{fault['line']}: {fault['was']}  =>  {fault['now']}", flush=True)

    def ask(self, fault):
        if self.options.matrix:
            return self.note(fault)
        if not hasattr(self.jobs, "name"):
            with self.lock:
                self.jobs.name = f"job{next(self.names)}"
        env = environment(self.jobs.name, YEWDRIFT_FAULT=str(fault["fault"]))
        by, spent = None, 0.0
        for tests in self.groups(fault):
            if spent > MOST_SECONDS and tests != [SERVERS]:
                break
            usual = sum(SERVERS_SECONDS if t == SERVERS else self.tests[t]["seconds"] for t in tests)
            status, _ = run(command_of(tests), env, 15 + 6 * usual)
            spent += usual
            if status:
                by = "senseless" if status == 77 else "timeout" if status == "timeout" else tests[0]
                break
        for left in glob.glob(env["TMPDIR"] + "/*"):
            shutil.rmtree(left, True)
        with self.lock:
            self.hit(fault["file"], by)
            if by != "senseless":
                self.asked, self.noticed = self.asked + 1, self.noticed + (by not in (None, "timeout"))
                self.timeouts += by == "timeout"
            if not self.options.all:
                with open(OUT + "/results.jsonl", "a") as out:
                    out.write(json.dumps({"key": key_of(fault), "by": by, "file": fault["file"]}) + "\n")
            if by is None:
                print(f"SURVIVED {fault['file']}:{fault['line']}: {fault['was']}  =>  {fault['now']}", flush=True)
            if self.asked % 50 == 0:
                self.tell()

    def tell(self):
        print(f"-- {self.noticed} of {self.asked} noticed; {self.timeouts} more did not end", flush=True)

    def run(self):
        with concurrent.futures.ThreadPoolExecutor(JOBS) as pool:
            list(pool.map(self.ask, self.chosen()))
        self.tell()


def report():
    """Of each test case how many faults it noticed, and how many it alone; those that noticed least first."""
    noticed, alone = {}, {}
    for test in json.load(open(OUT + "/reached.json")):
        noticed.update({f"{test}: {name}": 0 for name in names_of_cases(test)})
    rows = [json.loads(line) for line in open(OUT + "/matrix.jsonl")]
    for row in rows:
        for case in row["cases"]:
            noticed[case] = noticed.get(case, 0) + 1
            alone[case] = alone.get(case, 0) + (len(row["cases"]) == 1)
    for case, times in sorted(noticed.items(), key=lambda each: (alone.get(each[0], 0), each[1], each[0])):
        print(f"{alone.get(case, 0):4} alone {times:5} {case}")
    print(f"{sum(bool(row['cases']) for row in rows)} of {len(rows)} faults noticed")


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seed", type=int, default=random.randrange(10 ** 6))
    parser.add_argument("--count", type=int, default=40)
    parser.add_argument("--path", default="")
    parser.add_argument("--ops", default="")
    parser.add_argument("--without", action="append", default=[])
    parser.add_argument("--slowest", type=float, default=1e9)
    for each in ("--app", "--all", "--again", "--servers", "--reach", "--matrix", "--report"):
        parser.add_argument(each, action="store_true")
    parser.add_argument("--inner", action="store_true", help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.report:
        return report()
    if options.inner:  # in a name space of its own
        built("mount", "--bind", OUT + "/bin", BIN)
        return find_reached() if options.reach else Asking(options).run()
    built("cmake", "--preset", "release")
    built("ninja", "-C", RELEASE, *PROGRAMS)
    build()
    inner = [*MORTAL, "unshare", "-m", sys.executable, "-u", os.path.abspath(__file__), "--inner",
             *(["--app"] if APP else [])]
    try:
        if options.reach or not os.path.exists(OUT + "/reached.json"):
            subprocess.run([*inner, "--reach"], check=True)
        if not options.reach:
            print("seed", options.seed, flush=True)
            subprocess.run([*inner, *(each for each in sys.argv[1:] if each != "--app"), "--seed", str(options.seed)], check=True)
    finally:
        for left in glob.glob("/dev/shm/unguarded.*"):
            shutil.rmtree(left, True)


main()
