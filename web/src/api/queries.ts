import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useUnits } from "../units/units";
import { client, told, type Schemas } from "./client";

/** The units sentences are asked for in. */
function useSentences() {
  const { chosen } = useUnits();
  return { pressure: chosen.pressure, temperature: chosen.temperature, vacuum: chosen.vacuum };
}

export function useToday() {
  const query = useSentences();
  return useQuery({ queryKey: ["today", query], queryFn: () => told(client.GET("/api/today", { params: { query } })), placeholderData: keepPreviousData });
}

export function useCircuit(id: string) {
  const query = useSentences();
  return useQuery({
    queryKey: ["circuit", id, query],
    queryFn: () => told(client.GET("/api/circuits/{id}", { params: { path: { id }, query } })),
    placeholderData: keepPreviousData,
  });
}

export function useTest(id: string | undefined) {
  const query = useSentences();
  return useQuery({
    queryKey: ["test", id, query],
    queryFn: () => told(client.GET("/api/tests/{id}", { params: { path: { id: id ?? "" }, query } })),
    enabled: id !== undefined,
    placeholderData: keepPreviousData,
  });
}

export function useRecord(id: string) {
  const query = useSentences();
  return useQuery({ queryKey: ["record", id, query], queryFn: () => told(client.GET("/api/circuits/{id}/record", { params: { path: { id }, query } })) });
}

/** A write; afterwards everything on screen is asked for again. */
export function useWrite<In, Out>(write: (input: In) => Promise<Out>) {
  const cache = useQueryClient();
  return useMutation({ mutationFn: write, networkMode: "always", onSuccess: () => cache.invalidateQueries() });
}

export const writes = {
  job: (body: Schemas["JobInput"]) => told(client.POST("/api/jobs", { body })),
  test: (circuit: string) => (body: Schemas["TestInput"]) => told(client.POST("/api/circuits/{id}/tests", { params: { path: { id: circuit } }, body })),
  step: (circuit: string) => (body: Schemas["StepInput"]) => told(client.POST("/api/circuits/{id}/steps", { params: { path: { id: circuit } }, body })),
  override: (circuit: string) => (body: Schemas["OverrideInput"]) => told(client.POST("/api/circuits/{id}/overrides", { params: { path: { id: circuit } }, body })),
  sign: (circuit: string) => (body: Schemas["SignatureInput"]) => told(client.POST("/api/circuits/{id}/signature", { params: { path: { id: circuit } }, body })),
  event: (test: string) => (body: Schemas["EventInput"]) => told(client.POST("/api/tests/{id}/events", { params: { path: { id: test } }, body })),
  strike: (body: Schemas["StrikeInput"] & { reading: string }) =>
    told(client.POST("/api/readings/{id}/strike", { params: { path: { id: body.reading } }, body: { reason: body.reason, instead: body.instead ?? null } })),
  end: (test: string) => () => told(client.POST("/api/tests/{id}/end", { params: { path: { id: test } } })),
  clock: (test: string) => (body: Schemas["ClockInput"]) => told(client.POST("/api/tests/{id}/clock", { params: { path: { id: test } }, body })),
  listen: (test: string) => (on: boolean) =>
    on ? told(client.POST("/api/tests/{id}/gauge", { params: { path: { id: test } } })) : told(client.DELETE("/api/tests/{id}/gauge", { params: { path: { id: test } } })),
  columns: (body: Schemas["CsvInput"]) => told(client.POST("/api/csv", { body })),
  csv: (circuit: string) => (body: Schemas["CsvImport"]) => told(client.POST("/api/circuits/{id}/csv", { params: { path: { id: circuit } }, body })),
};

/** Sends a .zip as it is. */
export async function sendPackage(circuit: string, file: File): Promise<string> {
  const response = await fetch(`/api/circuits/${circuit}/packages?file=${encodeURIComponent(file.name)}`, {
    method: "POST",
    headers: { "Content-Type": "application/zip" },
    body: file,
  });
  const body: unknown = await response.json().catch(() => null);
  return (await told(Promise.resolve({ data: body as Schemas["Created"], error: body, response }))).id;
}
