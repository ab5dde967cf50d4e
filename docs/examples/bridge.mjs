// From MQTT to Ruhe's door, in twenty lines and without a library: each line of standard input is a topic and what was
// published there, as `mosquitto_sub -v` writes it, say
//   mosquitto_sub -v -t 'van/#' | RUHE_GAUGE_TOKEN=… node bridge.mjs http://127.0.0.1:7420
//   van/P1 {"value": "300.20", "unit": "psig", "at": "2026-05-04T10:00:00Z"}
import { createInterface } from "node:readline";

const door = `${process.argv[2] ?? "http://127.0.0.1:7420"}/api/door`;
let n = Date.now(); // Never used before, after a restart too.
for await (const line of createInterface({ input: process.stdin })) {
  const [topic, ...rest] = line.split(" ");
  const { value, unit, at = new Date().toISOString() } = JSON.parse(rest.join(" "));
  const reading = { source: topic.split("/").at(-1), n: n++, at, value: String(value), unit };
  const headers = {
    Authorization: `Bearer ${process.env.RUHE_GAUGE_TOKEN}`,
    "Content-Type": "application/x-ndjson",
    "Ruhe-Sent": String(Date.now()),
  };
  const told = await fetch(door, { method: "POST", headers, body: `${JSON.stringify(reading)}\n` });
  console.log(told.status, await told.text());
}
