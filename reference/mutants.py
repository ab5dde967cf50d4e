"""Changes one thing in the code at a time and runs a crate's own tests: how many changes they catch.

python3 reference/mutants.py CRATE FOLDER,FOLDER… COUNT SEED [named]

It works on a copy of the checkout beside it, so that nothing here is touched. A change is drawn at random (seeded) from
the lines of the folders that are no test and no comment: a comparison turned round, "and" for "or", a sign, a figure
doubled, a word denied, an early refusal left out. A change that does not compile does not count.
"""

import os, random, re, subprocess, sys, tempfile

HERE = os.path.dirname(os.path.dirname(os.path.abspath(__file__)))
SWAPS = [
    (r" < ", " >= "),
    (r" > ", " <= "),
    (r" <= ", " > "),
    (r" >= ", " < "),
    (r" == ", " != "),
    (r" != ", " == "),
    (r" && ", " || "),
    (r" \|\| ", " && "),
    (r" \+ (?=[a-z0-9(])", " - "),
    (r" - (?=[a-z0-9(])", " + "),
    (r"\bif !", "if "),
    (r"\btrue\b", "false"),
    (r"\bfalse\b", "true"),
    (r"\.is_some\(\)", ".is_none()"),
    (r"\.is_none\(\)", ".is_some()"),
    (r"\.min\(", ".max("),
    (r"\.max\(", ".min("),
    (r"(?<== )(\d+\.\d+)(?=;)", lambda m: str(2 * float(m.group(1)))),
    (r"^(\s+)([a-z_.]+\.must_[a-z_]+\([^;]*\)\?;)$", r"\1"),
]
# Changes that a reader named: where, what it says, what it says then.
NAMED = [
    (
        "job/src/startup/steady.rs",
        "const KELVIN: f64 = 1.0 / 1.8;",
        "const KELVIN: f64 = 2.0 / 1.8;",
    ),
    (
        "job/src/startup/steady.rs",
        "const SINCE_GAS_S: f64 = 300.0;",
        "const SINCE_GAS_S: f64 = 0.0;",
    ),
    (
        "job/src/kit/in_use.rs",
        "pumps.then_some(EventKind::PumpOff)",
        "{ let _ = pumps; None }",
    ),
    (
        "job/src/procedure/press.rs",
        "pub const SLIGHT: f64 = 10.0 * PSI;",
        "pub const SLIGHT: f64 = 200.0 * PSI;",
    ),
    (
        "job/src/service/keep.rs",
        "Deed::Struck { entry, .. } => out.extend(c.test_of(entry)),",
        "Deed::Struck { .. } => {}",
    ),
    (
        "job/src/service/keep.rs",
        "Some(log) if log == circuit => return Ok(acted(None)),",
        "",
    ),
]


def lines_of(folders):
    for folder in folders:
        for root, _, files in os.walk(os.path.join(HERE, folder)):
            for name in sorted(files):
                if not name.endswith(".rs"):
                    continue
                path = os.path.relpath(os.path.join(root, name), HERE)
                for i, line in enumerate(
                    open(os.path.join(HERE, path)).read().split("\n")
                ):
                    if "#[cfg(test)]" in line:
                        break
                    code = line.split("//")[0]
                    if '"' in code or not code.strip() or code.strip().startswith("#["):
                        continue
                    for old, new in SWAPS:
                        if re.search(old, code) and not re.search(
                            r"^\s*(pub )?(fn|use|impl|struct)\b", code
                        ):
                            yield path, i, re.sub(old, new, line, count=1)


def run(work, crate):
    """Whether the crate's own tests catch it; None: it does not compile."""
    env = dict(
        os.environ, CARGO_TARGET_DIR=os.path.join(work, "target"), RUST_BACKTRACE="0"
    )
    built = subprocess.run(
        ["cargo", "test", "-q", "-p", crate, "--no-run"],
        cwd=work,
        env=env,
        capture_output=True,
        text=True,
    )
    if built.returncode != 0:
        return None
    test = subprocess.Popen(
        ["cargo", "test", "-p", crate, "--no-fail-fast"],
        cwd=work,
        env=env,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        start_new_session=True,
    )
    caught = False
    for line in test.stdout:
        if re.search(r"FAILED|panicked at", line):
            caught = True
            os.killpg(test.pid, 15)
            break
    code = test.wait()
    return caught or code != 0


def main():
    crate, folders, count, seed = (
        sys.argv[1],
        sys.argv[2].split(","),
        int(sys.argv[3]),
        int(sys.argv[4]),
    )
    work = os.path.join(tempfile.gettempdir(), "ruhe-mutants")
    if not os.path.isdir(work):
        subprocess.run(["git", "clone", "-q", HERE, work], check=True)
    subprocess.run(["git", "-C", work, "fetch", "-q"], check=True)
    subprocess.run(
        ["git", "-C", work, "reset", "-q", "--hard", "origin/HEAD"], check=True
    )
    chosen = []
    if len(sys.argv) > 5:
        for path, old, new in NAMED:
            text = open(os.path.join(work, path)).read()
            assert old in text, (path, old)
            chosen.append((path, old, text.replace(old, new, 1)))
    sample = list(lines_of(folders))
    for path, i, new in random.Random(seed).sample(sample, min(len(sample), 3 * count)):
        text = open(os.path.join(work, path)).read().split("\n")
        old, text[i] = text[i], new
        chosen.append(
            (path, f"{i + 1}: {old.strip()}  →  {new.strip()}", "\n".join(text))
        )
    caught = tried = 0
    named = len(NAMED) if len(sys.argv) > 5 else 0
    for k, (path, what, text) in enumerate(chosen):
        if tried >= count + named:
            break
        file = os.path.join(work, path)
        before = open(file).read()
        open(file, "w").write(text)
        found = run(work, crate)
        open(file, "w").write(before)
        if found is None:
            continue
        tried += 1
        caught += found
        print(f"{'caught' if found else 'MISSED'} {path} {what}", flush=True)
    print(f"{caught} of {tried} caught")


main()
