// A second verifier of a record's folder, written from docs/interchange.md alone: no line of it is Ruhe's, and it judges
// nothing. `node verify.mjs FOLDER` says "whole" and exits with 0, or what was changed and exits with 4.
import { createHash, createPublicKey, verify as verified } from "node:crypto";
import { existsSync, readFileSync, readdirSync, statSync } from "node:fs";
import { join } from "node:path";

const root = process.argv[2];
const sha256 = (bytes) => createHash("sha256").update(bytes).digest("hex");

class Changed extends Error {}
const must = (is, place, what) => {
  if (!is) throw new Changed(`${place}: ${what}`);
};

// RFC 8785: keys in the order of their UTF-16 units; numbers and texts as ECMAScript writes them.
const canonical = (v) => {
  if (Array.isArray(v)) return `[${v.map(canonical).join(",")}]`;
  if (v === null || typeof v !== "object") return JSON.stringify(v);
  const keys = Object.keys(v).sort();
  return `{${keys.map((k) => `${JSON.stringify(k)}:${canonical(v[k])}`).join(",")}}`;
};
const same = (a, b) => canonical(a) === canonical(b);

const files = (at = "") =>
  readdirSync(join(root, at)).flatMap((n) => {
    const name = at ? `${at}/${n}` : n;
    return statSync(join(root, name)).isDirectory() ? files(name) : [name];
  });
const bytes = (name) => {
  must(existsSync(join(root, name)), name, "it is missing");
  return readFileSync(join(root, name));
};
const text = (name) =>
  new TextDecoder("utf-8", { fatal: true, ignoreBOM: true }).decode(
    bytes(name),
  );
const lines = (name) =>
  text(name)
    .split("\n")
    .filter((l, i, all) => i < all.length - 1 || l !== "");

// A table of comma-separated values (RFC 4180).
const table = (name) => {
  const rows = [[""]];
  let quoted = false;
  const t = text(name);
  for (let i = 0; i < t.length; i++) {
    const row = rows.at(-1);
    if (quoted) {
      if (t[i] !== '"') row[row.length - 1] += t[i];
      else if (t[i + 1] === '"') row[row.length - 1] += t[++i];
      else quoted = false;
    } else if (t[i] === '"') quoted = true;
    else if (t[i] === ",") row.push("");
    else if (t[i] === "\n") rows.push([""]);
    else row[row.length - 1] += t[i];
  }
  if (rows.at(-1).length === 1 && rows.at(-1)[0] === "") rows.pop();
  const [head, ...rest] = rows;
  return rest.map((r) => Object.fromEntries(head.map((h, i) => [h, r[i]])));
};
// A text that a spreadsheet would run has an apostrophe before it.
const plain = (cell) => (/^'+[=+\-@\t\r]/.test(cell) ? cell.slice(1) : cell);

function manifest() {
  const m = JSON.parse(text("manifest.json"));
  must(m.ruhe_record === 1, "manifest.json", "another form of record");
  must(
    sha256(canonical({ ...m, sha256: "" })) === m.sha256,
    "manifest.json",
    "not as it was written",
  );
  must(
    text("manifest.json") === `${JSON.stringify(m, null, 2)}\n`,
    "manifest.json",
    "not as it was written",
  );
  for (const [name, hash] of Object.entries(m.files))
    must(sha256(bytes(name)) === hash, name, "not the file that was written");
  for (const name of files())
    must(
      ["manifest.json", "signature.json"].includes(name) || name in m.files,
      name,
      "it does not belong here",
    );
  return m;
}

function signature() {
  if (!existsSync(join(root, "signature.json"))) return null;
  const s = JSON.parse(text("signature.json"));
  must(
    s.algorithm === "Ed25519" && s.signs === "manifest.json",
    "signature.json",
    "another kind of signature",
  );
  const raw = Buffer.from(s.public_key, "hex");
  // RFC 8410: what stands before the 32 bytes of a key.
  const der = Buffer.concat([
    Buffer.from("302a300506032b6570032100", "hex"),
    raw,
  ]);
  const key = createPublicKey({ key: der, format: "der", type: "spki" });
  const is = verified(
    null,
    bytes("manifest.json"),
    key,
    Buffer.from(s.signature, "hex"),
  );
  must(is, "signature.json", "the manifest is not what this key signed");
  const print = sha256(raw).slice(0, 40).match(/.{4}/g).join(" ");
  must(
    s.fingerprint === print,
    "signature.json",
    "the fingerprint is another key's",
  );
  return print;
}

function log(m) {
  let before = "0".repeat(64);
  const all = lines("log.jsonl").map((line, i) => {
    const place = `log.jsonl, entry ${i + 1}`;
    const e = JSON.parse(line);
    must(canonical(e) === line, place, "not in its form");
    must(
      e.format === 1,
      place,
      `written by ${e.ruhe} in a form that is not known here`,
    );
    must(e.log === m.circuit && e.seq === i + 1, place, "not at its place");
    must(e.before === before, place, "the entry before it was another");
    before = sha256(line);
    return e;
  });
  must(
    before === m.head,
    "log.jsonl",
    "its end is not the one the manifest names",
  );
  return all;
}

const of = (all, deed, test) =>
  all.filter((e) => e.deed === deed && e.test === test);
const moment = (t) => Date.parse(t);

function ruheOf(t, all, start, simulated) {
  const p = t.plan;
  const pa = (v) => (v == null ? undefined : v);
  const clock = of(all, "clock_started", t.id).at(-1);
  const isTest = ["pressure-hold", "vacuum-decay"].includes(t.kind);
  const pressure = {
    test_pressure: p.test_pa,
    ceiling: p.ceiling_pa,
    ceiling_b: p.ceiling_b_pa,
    tracer: p.tracer_pa,
    barometer: p.barometer_pa,
  };
  const out = {
    version: 1,
    kind: t.kind,
    gas: p.gas ?? "nitrogen",
    isolated: p.isolated ?? true,
    awaits_isolation:
      (isTest && (p.awaits_isolation ?? p.imported_from == null)) || undefined,
    simulated: p.is_simulated || simulated || undefined,
    settled_override_s: clock && (clock.at_ms - start) / 1e3,
    volume_low_l:
      p.volume_l == null && p.volume_high_l != null
        ? pa(p.volume_low_l)
        : undefined,
    volume_high_l:
      p.volume_l == null && p.volume_low_l != null
        ? pa(p.volume_high_l)
        : undefined,
  };
  for (const n of [
    "altitude_m",
    "volume_l",
    "dead_volume_ml",
    "evacuated_s",
    "planned_s",
    "probe",
    "sky",
    "volume_ratio",
    "behind",
    "part",
  ])
    out[n] = pa(p[n]);
  for (const [n, v] of Object.entries(pressure)) out[n] = pa(v);
  return {
    ...out,
    drop: pa(p.drop_pa),
    over_s: p.drop_pa == null ? undefined : pa(p.over_s),
    level: pa(p.level_pa),
    at_s: p.level_pa == null ? undefined : pa(p.at_s),
  };
}

const UNIT = {
  Pa: 1,
  kPa: 1e3,
  hPa: 100,
  bar: 1e5,
  mbar: 100,
  psi: 6894.757293168361,
  psig: 6894.757293168361,
  micron: 0.13332236842105263,
};
const near = (a, b) =>
  a === b ||
  (typeof a === "number" &&
    typeof b === "number" &&
    Math.abs(a - b) <= 1e-9 * Math.max(Math.abs(a), Math.abs(b)));

/** What a package says of itself follows from the plan. */
function descriptor(name, wanted, place) {
  const d = JSON.parse(text(name));
  const r = d.ruhe;
  const si = (p) => (p === undefined ? undefined : p.value * UNIT[p.unit]);
  const l = r.limit ?? {};
  const said = {
    ...r,
    drop: si(l.drop),
    over_s: l.over_s,
    level: si(l.level),
    at_s: l.at_s,
  };
  for (const n of [
    "test_pressure",
    "ceiling",
    "ceiling_b",
    "tracer",
    "barometer",
  ])
    said[n] = si(r[n]);
  for (const [n, v] of Object.entries(wanted))
    must(near(said[n], v), place, `“${n}” is not what was planned`);
  must(
    same(
      d.resources.map((x) => x.path),
      ["channels.csv", "readings.csv", "events.csv"],
    ),
    place,
    "other tables",
  );
  for (const n of Object.keys(d))
    must(
      ["profile", "name", "title", "resources", "ruhe"].includes(n),
      place,
      `“${n}” is not of the record`,
    );
}

function test(t, all, out) {
  const at = `tests/${t.kind}-${t.attempt}`;
  const sealed = lines(`${at}/sealed.jsonl`).map((line, i) => {
    const r = JSON.parse(line);
    must(
      canonical(r) === line,
      `${at}/sealed.jsonl, line ${i + 1}`,
      "not in its form",
    );
    return r;
  });
  // The last of its ends counts; an end that was struck out is none.
  const gone = new Set(
    all.filter((e) => e.deed === "struck").map((e) => e.entry),
  );
  const end = of(all, "ended", t.id)
    .filter((e) => !gone.has(e.id))
    .at(-1);
  if (end) {
    must(
      sha256(bytes(`${at}/sealed.jsonl`)) === end.seal.digest,
      `${at}/sealed.jsonl`,
      "not the readings that were sealed",
    );
    must(
      sealed.length === end.seal.count,
      `${at}/sealed.jsonl`,
      "not as many as were sealed",
    );
  }
  const struck = new Set(of(all, "reading_struck", t.id).map((e) => e.reading));
  const counts = sealed.filter(
    (r) => !struck.has(r.id) && r.channel < t.channels.length,
  );
  const channels = table(`${at}/channels.csv`);
  must(
    channels.length === t.channels.length,
    `${at}/channels.csv`,
    "other channels than were planned",
  );
  t.channels.forEach((c, i) => {
    for (const n of ["quantity", "unit", "position", "reference", "principle"])
      must(
        (channels[i][n] || null) === (c[n] ?? null),
        `${at}/channels.csv`,
        `${n} of ${c.name}`,
      );
    for (const n of ["resolution", "accuracy", "range", "volume_share"])
      must(
        near(channels[i][n] ? Number(channels[i][n]) : null, c[n] ?? null),
        `${at}/channels.csv`,
        `${n} of ${c.name}`,
      );
    must(
      plain(channels[i].channel) === c.name,
      `${at}/channels.csv`,
      "another name",
    );
  });
  const rows = table(`${at}/readings.csv`);
  must(
    rows.length === counts.length,
    `${at}/readings.csv`,
    "other readings than were sealed",
  );
  counts.forEach((r, i) => {
    const row = rows[i];
    const is =
      moment(row.time) === r.at_ms &&
      plain(row.channel) === t.channels[r.channel].name &&
      Number(row.value) === r.value;
    must(
      is && row.value !== "",
      `${at}/readings.csv`,
      `row ${i + 1} is not what was sealed`,
    );
  });
  const marked = of(all, "marked", t.id)
    .filter((e) => !gone.has(e.id))
    .sort((a, b) => a.at_ms - b.at_ms);
  const events = table(`${at}/events.csv`);
  must(
    events.length === marked.length,
    `${at}/events.csv`,
    "other events than were marked",
  );
  marked.forEach((e, i) => {
    const is =
      moment(events[i].time) === e.at_ms &&
      events[i].event === e.event &&
      plain(events[i].note) === e.note;
    must(is, `${at}/events.csv`, `row ${i + 1} is not what was marked`);
  });
  const start = counts[0]?.at_ms ?? t.at_ms;
  const simulated = sealed.some((r) => r.origin === "simulated");
  descriptor(
    `${at}/datapackage.json`,
    ruheOf(t, all, start, simulated),
    `${at}/datapackage.json`,
  );
  out.push(at);
}

function photos(all) {
  const ends = { "image/jpeg": "jpg", "image/png": "png" };
  for (const e of all.filter((e) => e.deed === "photo_taken")) {
    const name = `photos/${e.id}.${ends[e.mime] ?? "webp"}`;
    must(
      sha256(bytes(name)) === e.sha256,
      name,
      "not the photo that the log names",
    );
  }
}

try {
  const m = manifest();
  const key = signature();
  const all = log(m);
  photos(all);
  const gone = new Set(
    all.filter((e) => e.deed === "struck").map((e) => e.entry),
  );
  const tests = [];
  for (const t of all.filter((e) => e.deed === "planned" && !gone.has(e.id)))
    test(t, all, tests);
  for (const name of Object.keys(m.files)) {
    const known =
      ["log.jsonl", "record.pdf"].includes(name) ||
      name.startsWith("photos/") ||
      tests.some((t) => name.startsWith(`${t}/`));
    must(known, name, "nothing in the log speaks of it");
  }
  console.log(
    `whole: ${all.length} entries, ${tests.length} tests, ${key ? `key ${key}` : "no key"}, head ${m.head}`,
  );
} catch (e) {
  if (
    !(e instanceof Changed) &&
    !(e instanceof SyntaxError) &&
    !(e instanceof TypeError)
  )
    throw e;
  console.log(`changed. ${e.message}`);
  process.exitCode = 4;
}
