// Writes web/public/notices.txt: every crate and npm package that is inside `ruhe`, with its licence and the text of it.
// Run after a change to Cargo.lock or package-lock.json; a test fails while one is missing.
import { execFileSync } from "node:child_process";
import { existsSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

const root = join(dirname(fileURLToPath(import.meta.url)), "..");
const cargo = (...args) =>
  execFileSync("cargo", args, {
    cwd: root,
    encoding: "utf8",
    maxBuffer: 1 << 28,
  });

/** What is compiled in: no tools of tests or of building. */
function crates() {
  const names = new Set();
  for (const of of ["ruhe-server", "ruhe-wasm"])
    for (const line of cargo(
      "tree",
      "--locked",
      "-p",
      of,
      "-e",
      "normal",
      "--prefix",
      "none",
      "--target",
      "x86_64-unknown-linux-gnu",
      "-f",
      "{p}",
    ).split("\n")) {
      const m = /^(\S+) v(\S+)/.exec(line);
      if (m && !m[1].startsWith("ruhe-")) names.add(`${m[1]} ${m[2]}`);
    }
  const { packages } = JSON.parse(
    cargo(
      "metadata",
      "--locked",
      "--format-version",
      "1",
      "--filter-platform",
      "x86_64-unknown-linux-gnu",
    ),
  );
  return packages
    .filter((p) => names.has(`${p.name} ${p.version}`))
    .map((p) => ({
      name: p.name,
      version: p.version,
      licence: p.license ?? "see its text",
      folder: dirname(p.manifest_path),
    }));
}

function packages() {
  const lock = JSON.parse(
    readFileSync(join(root, "web/package-lock.json"), "utf8"),
  );
  return Object.entries(lock.packages)
    .filter(([path, p]) => path && !p.dev && !p.optional)
    .map(([path, p]) => ({
      name: path.replace(/^.*node_modules\//, ""),
      version: p.version,
      licence: p.license ?? "see its text",
      folder: join(root, "web", path),
    }));
}

const LICENCE = /^(licen[cs]e|copying|notice|unlicense|copyright)/i;

/** The texts beside a work. Where it is offered under MIT too, that one is enough. */
function texts({ folder, licence }) {
  if (!existsSync(folder)) return [];
  const files = readdirSync(folder, { withFileTypes: true })
    .filter((f) => f.isFile() && LICENCE.test(f.name))
    .map((f) => f.name);
  const mit = files.filter((f) => /mit/i.test(f));
  const isChoice = /MIT/.test(licence) && /\bOR\b|\//.test(licence);
  return (isChoice && mit.length > 0 ? mit : files).map((f) =>
    readFileSync(join(folder, f), "utf8")
      .split("\n")
      .map((line) => line.trim())
      .join("\n")
      .replace(/\n{3,}/g, "\n\n")
      .trim(),
  );
}

const all = [...crates(), ...packages()].sort((a, b) =>
  `${a.name} ${a.version}` < `${b.name} ${b.version}` ? -1 : 1,
);
const shared = new Map();
let list = "";
for (const p of all) {
  const marks = texts(p).map((t) => {
    if (!shared.has(t)) shared.set(t, shared.size + 1);
    return shared.get(t);
  });
  list += `${p.name} ${p.version}: ${p.licence}${marks.length ? ` [${marks.join(", ")}]` : ""}\n`;
}
const bodies = [...shared].map(
  ([text, n]) => `${"-".repeat(78)}\n[${n}]\n\n${text}\n`,
);
writeFileSync(
  join(root, "web/public/notices.txt"),
  `Ruhe is under the Apache License 2.0. Inside it are the works of others, each under its own licence; the numbers
lead to the texts below.

${list}
${bodies.join("\n")}`,
);
console.log(`${all.length} works, ${shared.size} texts`);
