import type { Schemas } from "../../../api/client";
import { gauges, useGauges } from "../../../api/gauges";
import { useWrite } from "../../../api/queries";
import { Grid, Trouble } from "../../../look/parts";
import { Pick } from "../../../look/Pick";

/** A gauge that is let in meanwhile may wait so long to be offered, ms. */
const NOW_AND_THEN = 60_000;

/** Not a name a gauge can have: it has a space. */
const BY_HAND = "by hand";

/** Which sensor of which gauge each channel is read by, where gauges send by themselves. */
export default function ReadBy({ test }: { test: Schemas["TestView"] }) {
  const all = useGauges(NOW_AND_THEN)?.filter((g) => !g.is_simulated) ?? [];
  const bind = useWrite(gauges.bind(test.id));
  const byHand = useWrite(gauges.unbind(test.id));
  const sources = all.flatMap((g) =>
    g.sources.map((s) => ({ ...s, gauge: g.id, name: g.name })),
  );
  if (!sources.length) return null;
  return (
    <>
      <Grid>
        {test.channels.map((c) => {
          const now = sources.find((s) => s.channel_id === c.id);
          const offered = sources.filter((s) => s.unit === c.unit);
          if (!offered.length) return null;
          return (
            <Pick
              key={c.id}
              label={`${c.name} is read`}
              value={now ? `${now.gauge} ${now.source}` : BY_HAND}
              onChange={(id) => {
                const s = offered.find((x) => `${x.gauge} ${x.source}` === id);
                if (!s) byHand.mutate(c.id);
                else
                  bind.mutate({
                    channel: c.id,
                    gauge: s.gauge,
                    source: s.source,
                  });
              }}
              options={[
                { id: BY_HAND, text: "by hand" },
                ...offered.map((s) => ({
                  id: `${s.gauge} ${s.source}`,
                  text: `by ${s.name}, ${s.source}: ${s.value}`,
                })),
              ]}
            />
          );
        })}
      </Grid>
      <Trouble of={bind.error ?? byHand.error} />
    </>
  );
}
