import styled from "styled-components";
import type { Schemas } from "../../../api/client";
import { useWidth } from "../../../charts/axis";
import { Svg } from "../../../charts/Frame";

const Box = styled.div`
  min-width: 0;
`;

const HEIGHT = 168;
const PLACES = [
  ["indoor", "indoors"],
  ["line", "line set"],
  ["outdoor", "outdoors"],
] as const;

interface Spot {
  name: string;
  x: number;
  section: string;
}

/** Inside, line, outside from left to right; a line round what is one section; valves with what stands behind them. */
export function Schematic({ survey }: { survey: Schemas["SurveyDoc"] }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const sections = survey.sections ?? [];
  const valves = survey.valves ?? [];
  const column = width / 3;
  const spots: Spot[] = PLACES.flatMap(([place], i) => {
    const here = (survey.components ?? []).filter((c) => c.place === place);
    const tubes =
      place === "line" && !here.length && (survey.tubes ?? []).length
        ? [
            {
              name: (survey.tubes ?? []).map((t) => t.size).join(" and "),
              section: survey.tubes?.[0]?.section ?? "",
            },
          ]
        : here;
    return tubes.map((c, k) => ({
      name: c.name,
      section: c.section,
      x: column * (i + (k + 1) / (tubes.length + 1)),
    }));
  });
  const y = 84;
  const short = (text: string, room: number) =>
    text.length * 7.2 > room
      ? `${text.slice(0, Math.max(4, Math.floor(room / 7.2) - 1))}…`
      : text;
  const room = (s: Spot) =>
    Math.min(
      170,
      (column * 0.9) /
        Math.max(
          1,
          spots.filter(
            (o) => Math.floor(o.x / column) === Math.floor(s.x / column),
          ).length,
        ),
    );
  const words = sections
    .map(
      (s) =>
        `${s.name}: ${
          spots
            .filter((p) => p.section === s.name)
            .map((p) => p.name)
            .join(", ") || "no part yet"
        }`,
    )
    .join(". ");
  return (
    <Box ref={ref}>
      {width > 0 && (
        <Svg
          width={width}
          height={HEIGHT}
          role="img"
          aria-label={`Sections. ${words}. ${valves.map((v) => `${v.name} ${v.is_shut ? "shut" : "open"}`).join(", ")}`}
        >
          {PLACES.map(([place, title], i) => (
            <g key={place}>
              <text x={column * (i + 0.5)} y={14} textAnchor="middle">
                {title}
              </text>
              {i > 0 && (
                <line
                  className="tick"
                  x1={column * i}
                  x2={column * i}
                  y1={4}
                  y2={HEIGHT - 4}
                  strokeDasharray="3 6"
                />
              )}
            </g>
          ))}
          {spots.length > 1 && (
            <path
              d={`M${spots[0]?.x ?? 0} ${y - 8}H${spots.at(-1)?.x ?? 0}M${spots[0]?.x ?? 0} ${y + 8}H${spots.at(-1)?.x ?? 0}`}
              stroke="var(--edge)"
              strokeWidth={2}
              fill="none"
            />
          )}
          {sections.map((s) => {
            const mine = spots.filter((p) => p.section === s.name);
            if (!mine.length) return null;
            const [a, b] = [
              Math.min(...mine.map((p) => p.x - room(p) / 2)) - 6,
              Math.max(...mine.map((p) => p.x + room(p) / 2)) + 6,
            ];
            return (
              <g key={s.name}>
                <rect
                  x={Math.max(1, a)}
                  y={34}
                  width={Math.min(width - 2, b) - Math.max(1, a)}
                  height={100}
                  rx={8}
                  fill={s.is_tested ? "var(--ribbon)" : "none"}
                  stroke={s.is_tested ? "var(--accent)" : "var(--edge)"}
                  strokeWidth={2}
                  strokeDasharray={s.is_tested ? undefined : "2 6"}
                />
                <text x={Math.max(1, a) + 8} y={HEIGHT - 18} fontWeight={600}>
                  {short(
                    `${s.name}${s.is_tested ? ", under test" : ""}`,
                    b - a,
                  )}
                </text>
                {s.gauge && (
                  <text x={Math.max(1, a) + 8} y={HEIGHT - 2}>
                    {short(`gauge at ${s.gauge}`, b - a)}
                  </text>
                )}
              </g>
            );
          })}
          {spots.map((p) => (
            <g key={p.name + p.x}>
              <rect
                x={p.x - room(p) / 2 + 4}
                y={y - 22}
                width={room(p) - 8}
                height={44}
                rx={5}
                fill="var(--paper)"
                stroke="var(--ink)"
                strokeWidth={1.5}
              />
              <text
                x={p.x}
                y={y + 4}
                textAnchor="middle"
                style={{ fill: "var(--ink)" }}
              >
                {short(p.name, room(p) - 18)}
              </text>
            </g>
          ))}
          {valves.map((v, i) => {
            const mine = spots.filter((p) => p.section === v.section);
            const edge = Math.min(
              width - 12,
              (mine.length
                ? Math.max(...mine.map((p) => p.x + room(p) / 2))
                : width / 2) + 6,
            );
            const vy = y - 8 + (i % 2) * 16;
            return (
              <g key={v.name + i}>
                <title>{`${v.name}, ${v.is_shut ? "shut" : "open"}`}</title>
                <path
                  d={`M${edge - 8} ${vy - 6}l16 12v-12l-16 12z`}
                  fill={v.is_shut ? "var(--ink)" : "var(--paper)"}
                  stroke="var(--ink)"
                  strokeWidth={1.5}
                />
              </g>
            );
          })}
        </Svg>
      )}
    </Box>
  );
}
