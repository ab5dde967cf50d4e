import { useQuery } from "@tanstack/react-query";
import { client, told, type Schemas } from "./client";

/** Gauges that send by themselves, and what each sent last; looked at every so many ms. */
export const useGauges = (every = 5_000) =>
  useQuery({
    queryKey: ["gauges"],
    queryFn: () => told(client.GET("/api/gauges")),
    refetchInterval: every,
  }).data;

/** A sensor by the name of its gauge. */
export const named = (
  all: Schemas["GaugeView"][] | undefined,
  by: Schemas["SentBy"],
) =>
  `${all?.find((g) => g.id === by.gauge)?.name ?? "a gauge that was shut out"}, ${by.source}`;

export const gauges = {
  add: (body: Schemas["GaugeInput"]) =>
    told(client.POST("/api/gauges", { body })),
  shutOut: (id: string) =>
    told(client.DELETE("/api/gauges/{id}", { params: { path: { id } } })),
  unbind: (test: string) => (channel: string) =>
    told(
      client.DELETE("/api/tests/{id}/channels/{channel}/gauge", {
        params: { path: { id: test, channel } },
      }),
    ),
  bind:
    (test: string) =>
    ({ channel, ...body }: Schemas["BindInput"] & { channel: string }) =>
      told(
        client.PUT("/api/tests/{id}/channels/{channel}/gauge", {
          params: { path: { id: test, channel } },
          body,
        }),
      ),
};
