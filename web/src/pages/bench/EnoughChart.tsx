import { scaleLog } from "d3-scale";
import type { Schemas } from "../../api/client";
import { path } from "../../charts/axis";
import { Frame } from "../../charts/Frame";
import { grams } from "../../charts/Ladder";
import { span, trimmed, useUnits } from "../../units/units";

const HEIGHT = 230;
const LEFT = 62;
const RIGHT = 16;
const DASHES = ["", "9 5", "2 5", "12 4 2 4"];
const TIMES = [600, 1800, 3600, 4 * 3600, 12 * 3600, 48 * 3600];

/** The smallest leak a hold would still show, against its length; both logarithmic. */
export function EnoughChart({
  view,
  wanted,
}: {
  view: Schemas["EnoughView"];
  wanted: number;
}) {
  const units = useUnits();
  const first = view.variants[0]?.reaches ?? [];
  const all = view.variants
    .flatMap((v) => v.reaches.map((r) => r.high_g_per_year ?? NaN))
    .filter((g) => g > 0);
  if (!first.length || !all.length) return null;
  const y = scaleLog(
    [
      10 ** Math.floor(Math.log10(Math.min(...all, wanted || 1))),
      10 ** Math.ceil(Math.log10(Math.max(...all, wanted || 1))),
    ],
    [HEIGHT - 24, 12],
  );
  const x = (w: number) => scaleLog([600, 48 * 3600], [LEFT, w - RIGHT]);
  const say = (i: number) => {
    const r = first[i];
    return r
      ? `${span(r.after_s)}: shows ${trimmed(units.delta("pressure", r.drop_pa), 2)} ${units.deltaLabel("pressure")}, ${grams(r.low_g_per_year ?? NaN)} to ${grams(r.high_g_per_year ?? NaN)} a year`
      : "";
  };
  return (
    <Frame
      summary="Smallest leak a hold would show, against its length."
      height={HEIGHT}
      xs={(w) => first.map((r) => x(w)(r.after_s))}
      say={say}
      table={{
        head: ["hold", ...view.variants.map((v) => v.name)],
        rows: first.map((r, i) => [
          span(r.after_s),
          ...view.variants.map((v) =>
            grams(v.reaches[i]?.high_g_per_year ?? NaN),
          ),
        ]),
      }}
      draw={(width, at) => (
        <>
          {y
            .ticks(6)
            .filter((t) => Math.abs(Math.log10(t) % 1) < 1e-9)
            .map((t) => (
              <g key={t}>
                <line
                  className="tick"
                  x1={LEFT}
                  x2={width - RIGHT}
                  y1={y(t)}
                  y2={y(t)}
                />
                <text x={LEFT - 8} y={y(t) + 4} textAnchor="end">
                  {grams(t)}
                </text>
              </g>
            ))}
          {TIMES.map((t) => (
            <text
              key={t}
              x={Math.min(x(width)(t), width - 22)}
              y={HEIGHT - 4}
              textAnchor="middle"
            >
              {span(t)}
            </text>
          ))}
          {wanted > 0 && (
            <line
              x1={LEFT}
              x2={width - RIGHT}
              y1={y(wanted)}
              y2={y(wanted)}
              stroke="var(--falling)"
              strokeWidth={2}
              strokeDasharray="2 5"
            />
          )}
          {wanted > 0 && (
            <text x={width - RIGHT - 4} y={y(wanted) - 6} textAnchor="end">
              wanted
            </text>
          )}
          {view.variants.map((v, i) => (
            <g key={v.name}>
              <path
                d={path(
                  v.reaches.map((r) => [
                    x(width)(r.after_s),
                    y(Math.max(1e-3, r.high_g_per_year ?? NaN)),
                  ]),
                )}
                fill="none"
                stroke={i ? "var(--losing)" : "var(--accent)"}
                strokeWidth={i ? 2 : 3}
                strokeDasharray={DASHES[i]}
              />
              <path
                d={`M${width - RIGHT - 190} ${26 + i * 18}h26`}
                stroke={i ? "var(--losing)" : "var(--accent)"}
                strokeWidth={i ? 2 : 3}
                strokeDasharray={DASHES[i]}
              />
              <text x={width - RIGHT - 158} y={30 + i * 18}>
                {v.name}
              </text>
            </g>
          ))}
          {at !== null && first[at] && (
            <line
              x1={x(width)(first[at].after_s)}
              x2={x(width)(first[at].after_s)}
              y1={6}
              y2={HEIGHT - 22}
              stroke="var(--ink)"
            />
          )}
        </>
      )}
    />
  );
}
