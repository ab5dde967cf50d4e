import {
  keepPreviousData,
  queryOptions,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useUnits, type Chosen } from "../units/units";
import { client, Refusal, said, told, type Schemas } from "./client";
import { port } from "./port";
import { here } from "./room";
import { confirmed } from "./session";

/** The units sentences are asked for in. */
export const sentencesIn = ({ pressure, temperature, vacuum }: Chosen) => ({
  pressure,
  temperature,
  vacuum,
});
export const useSentences = () => sentencesIn(useUnits().chosen);
type Sentences = ReturnType<typeof sentencesIn>;

export const todayQuery = (query: Sentences) =>
  queryOptions({
    queryKey: ["today", query],
    queryFn: () => told(client.GET("/api/today", { params: { query } })),
  });
export const circuitQuery = (id: string, query: Sentences) =>
  queryOptions({
    queryKey: ["circuit", id, query],
    queryFn: () =>
      told(
        client.GET("/api/circuits/{id}", { params: { path: { id }, query } }),
      ),
  });

export const testQuery = (id: string, query: Sentences) =>
  queryOptions({
    queryKey: ["test", id, query],
    queryFn: () =>
      told(client.GET("/api/tests/{id}", { params: { path: { id }, query } })),
  });

export function useToday() {
  return useQuery({
    ...todayQuery(useSentences()),
    placeholderData: keepPreviousData,
  });
}

/** What was last known: an asking that fails takes nothing off the screen. */
function useLast<T>(
  of: string | undefined,
  data: T | undefined,
): T | undefined {
  const [last, setLast] = useState({ of, data });
  if (data !== undefined && (last.data !== data || last.of !== of))
    setLast({ of, data });
  return data ?? (last.of === of ? last.data : undefined);
}

export function useCircuit(id: string | undefined) {
  const asked = useQuery({
    ...circuitQuery(id ?? "", useSentences()),
    enabled: Boolean(id),
    placeholderData: keepPreviousData,
  });
  return { data: useLast(id, asked.data), error: asked.error };
}

/** How often the step is looked at while a gauge is listened to, ms. */
const PRESSING = 2_000;

export function useTest(id: string | undefined) {
  const asked = useQuery({
    ...testQuery(id ?? "", useSentences()),
    enabled: id !== undefined,
    placeholderData: keepPreviousData,
    // While one presses up, the step one is at moves with the gauge.
    refetchInterval: ({ state: { data } }) =>
      data?.press && data.is_live && data.ended_ms == null ? PRESSING : false,
  });
  return { data: useLast(id, asked.data), error: asked.error };
}

/** Which readings of a test. */
export type Rows = "all" | "doubtful" | "typed" | "struck";

/** A page of a test's readings. It stands still until it is asked for again or something is put right. */
export function useTable(id: string, rows: Rows, before_ms: number | null) {
  return useQuery({
    queryKey: ["table", { id, rows, before_ms }],
    queryFn: () =>
      told(
        client.GET("/api/tests/{id}/readings", {
          params: {
            path: { id },
            query: { rows, ...(before_ms !== null && { before_ms }) },
          },
        }),
      ),
  });
}

export function useRecord(id: string, visit: string | null) {
  const sentences = useSentences();
  const query = { ...sentences, ...(visit && { visit: Number(visit) }) };
  return useQuery({
    queryKey: ["record", id, query],
    queryFn: () =>
      told(
        client.GET("/api/circuits/{id}/record", {
          params: { path: { id }, query },
        }),
      ),
  });
}

/** What a search finds; null: nothing is asked. */
export function useFound(
  wanted: {
    q: string;
    state: string;
    from_ms: number | null;
    to_ms: number | null;
  } | null,
) {
  return useQuery({
    queryKey: ["found", wanted],
    queryFn: () =>
      told(client.GET("/api/search", { params: { query: wanted ?? {} } })),
    enabled: wanted !== null,
    placeholderData: keepPreviousData,
  });
}

/** An ended test judged again. */
export function useJudgedAgain(id: string | undefined) {
  const query = useSentences();
  return useQuery({
    queryKey: ["again", id, query],
    queryFn: () =>
      told(
        client.GET("/api/tests/{id}/judged-again", {
          params: { path: { id: id ?? "" }, query },
        }),
      ),
    enabled: id !== undefined,
  });
}

export function useKit() {
  const query = useSentences();
  return useQuery({
    queryKey: ["kit", query],
    queryFn: () => told(client.GET("/api/kit", { params: { query } })),
  });
}

/** A write; afterwards everything on screen is asked for again, after a refusal too: what is shown may be stale. */
export function useWrite<In, Out>(write: (input: In) => Promise<Out>) {
  const cache = useQueryClient();
  const again = () => cache.invalidateQueries();
  return useMutation({
    mutationFn: write,
    networkMode: "always",
    onSuccess: again,
    onError: (e) => (e instanceof Refusal ? again() : undefined),
  });
}

/** So long nothing must have been typed, ms. */
const SETTLES = 250;

/** What was typed once the typing has come to rest. */
function useSettled<T extends object>(now: T | null): T | null {
  const text = JSON.stringify(now);
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled(text), SETTLES);
    return () => window.clearTimeout(timer);
  }, [text]);
  // Nothing to ask is known at once.
  return now === null ? null : (JSON.parse(settled) as T | null);
}

/** A calculator's answer; asked for again when what was typed changes, never while it is incomplete. */
export function useBench<Out>(
  name: string,
  body: object | null,
  ask: (body: never) => Promise<Out>,
) {
  const asked = useSettled(body);
  return useQuery({
    queryKey: ["bench", name, asked],
    queryFn: () => ask(asked as never),
    enabled: asked !== null,
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: Infinity,
  });
}

/** How a logger's file is to be read, without the file. */
export type FileReading = Schemas["CsvImport"];

/** What a logger's file would give when it is read so; null: it is not asked. */
export function useFileLook(circuit: string, reading: FileReading | null) {
  const query = useSentences();
  const asked = useSettled(reading);
  return useQuery({
    queryKey: ["file", circuit, query, asked],
    queryFn: () =>
      told(
        client.POST("/api/circuits/{id}/csv/look", {
          params: { path: { id: circuit }, query },
          body: asked as FileReading,
        }),
      ),
    enabled: asked !== null,
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: Infinity,
    gcTime: 0,
  });
}

export const bench = {
  corrected: (body: Schemas["CorrectedInput"]) =>
    told(client.POST("/api/bench/corrected", { body })),
  enough: (body: Schemas["EnoughInput"]) =>
    told(client.POST("/api/bench/enough", { body })),
  nitrogen: (body: Schemas["BudgetInput"]) =>
    told(client.POST("/api/bench/nitrogen", { body })),
  volume: (body: Schemas["VolumeInput"]) =>
    told(client.POST("/api/bench/volume", { body })),
  retest: (body: Schemas["RetestInput"]) =>
    told(client.POST("/api/bench/retest", { body })),
  saturation: (body: Schemas["SaturationInput"]) =>
    told(client.POST("/api/bench/saturation", { body })),
  rise: (body: Schemas["RiseInput"]) =>
    told(client.POST("/api/bench/rise", { body })),
  pull: (body: Schemas["PullInput"]) =>
    told(client.POST("/api/bench/pull", { body })),
  additional: (body: Schemas["AdditionalInput"]) =>
    told(client.POST("/api/bench/additional", { body })),
  mass: (body: Schemas["MassInput"]) =>
    told(client.POST("/api/bench/mass", { body })),
};

export const writes = {
  job: (body: Schemas["JobInput"]) => told(client.POST("/api/jobs", { body })),
  survey: (circuit: string) => (body: Schemas["SurveyInput"]) =>
    told(
      client.PUT("/api/circuits/{id}/survey", {
        params: { path: { id: circuit } },
        body,
      }),
    ),
  look: (circuit: string) => (body: Schemas["LookInput"]) =>
    told(
      client.POST("/api/circuits/{id}/looks", {
        params: { path: { id: circuit } },
        body,
      }),
    ),
  repair: (circuit: string) => (body: Schemas["RepairInput"]) =>
    told(
      client.POST("/api/circuits/{id}/repairs", {
        params: { path: { id: circuit } },
        body,
      }),
    ),
  /** A new thing of the kit, or the next version of one. */
  kit: ({ id, body }: { id: string | null; body: Schemas["KitDoc"] }) =>
    id
      ? told(client.PUT("/api/kit/{id}", { params: { path: { id } }, body }))
      : told(client.POST("/api/kit", { body })),
  procedure: (body: Schemas["ProcedureInput"]) =>
    told(client.POST("/api/procedures", { body })),
  test:
    (circuit: string, query: { pressure: string }) =>
    (body: Schemas["TestInput"]) =>
      told(
        client.POST("/api/circuits/{id}/tests", {
          params: { path: { id: circuit }, query },
          body,
        }),
      ),
  step: (circuit: string) => (body: Schemas["StepInput"]) =>
    told(
      client.POST("/api/circuits/{id}/steps", {
        params: { path: { id: circuit } },
        body,
      }),
    ),
  override: (circuit: string) => (body: Schemas["OverrideInput"]) =>
    told(
      client.POST("/api/circuits/{id}/overrides", {
        params: { path: { id: circuit } },
        body,
      }),
    ),
  approval: (circuit: string) => (entry: string) =>
    told(
      client.POST("/api/circuits/{id}/overrides/{entry}/approval", {
        params: { path: { id: circuit, entry } },
      }),
    ),
  /** What the circuit is, put right. */
  correction: (circuit: string) => (body: Schemas["CorrectionInput"]) =>
    told(
      client.POST("/api/circuits/{id}/correction", {
        params: { path: { id: circuit } },
        body,
      }),
    ),
  /** A test goes to the circuit it was made on. */
  moved: (test: string) => (body: Schemas["MoveInput"]) =>
    told(
      client.POST("/api/tests/{id}/moved", {
        params: { path: { id: test } },
        body,
      }),
    ),
  /** A reading outside any test: what is inside now. */
  seen: (circuit: string) => (body: Schemas["SeenInput"]) =>
    told(
      client.POST("/api/circuits/{id}/seen", {
        params: { path: { id: circuit } },
        body,
      }),
    ),
  sign:
    (circuit: string) =>
    async ({
      password,
      ...body
    }: Schemas["SignatureInput"] & { password: string }) =>
      told(
        client.POST("/api/circuits/{id}/signature", {
          params: { path: { id: circuit } },
          headers: await confirmed(password),
          body,
        }),
      ),
  event: (test: string) => (body: Schemas["EventInput"]) =>
    told(
      client.POST("/api/tests/{id}/events", {
        params: { path: { id: test } },
        body,
      }),
    ),
  strike: (body: Schemas["StrikeInput"] & { reading: string }) =>
    told(
      client.POST("/api/readings/{id}/strike", {
        params: { path: { id: body.reading } },
        body: { reason: body.reason, instead: body.instead ?? null },
      }),
    ),
  /** Strikes out an event, a step, a look, a repair, the end of a test, or a test. */
  void:
    (circuit: string) =>
    ({ entry, reason }: { entry: string; reason: string }) =>
      told(
        client.POST("/api/circuits/{id}/entries/{entry}/strike", {
          params: { path: { id: circuit, entry } },
          body: { reason },
        }),
      ),
  end: (test: string) => () =>
    told(
      client.POST("/api/tests/{id}/end", { params: { path: { id: test } } }),
    ),
  clock: (test: string) => (body: Schemas["ClockInput"]) =>
    told(
      client.POST("/api/tests/{id}/clock", {
        params: { path: { id: test } },
        body,
      }),
    ),
  listen: (test: string) => (on: boolean) =>
    on
      ? told(
          client.POST("/api/tests/{id}/gauge", {
            params: { path: { id: test } },
          }),
        )
      : told(
          client.DELETE("/api/tests/{id}/gauge", {
            params: { path: { id: test } },
          }),
        ),
  csv: (circuit: string) => (body: Schemas["CsvImport"]) =>
    told(
      client.POST("/api/circuits/{id}/csv", {
        params: { path: { id: circuit } },
        body,
      }),
    ),
};

async function sendBytes(
  url: string,
  type: string,
  body: Blob,
): Promise<string> {
  const request = new Request(here(url), {
    method: "POST",
    headers: { "Content-Type": type, ...said() },
    body,
  });
  const response = await port(request);
  const reply: unknown = await response.json().catch(() => null);
  return (
    await told(
      Promise.resolve({
        data: reply as Schemas["Created"],
        error: reply,
        response,
      }),
    )
  ).id;
}

/** Sends a logger's file as it is: what it seems to be. `onSent`: the share that is out; a request that can be
 * watched so
 * is one of the older kind. */
export function sendLog(
  file: File,
  onSent: (share: number) => void,
): Promise<Schemas["FileView"]> {
  const request = new XMLHttpRequest();
  const name = encodeURIComponent(file.name);
  request.open("POST", here(`/api/csv?file=${name}`));
  request.setRequestHeader("Content-Type", "application/octet-stream");
  for (const [header, value] of Object.entries(said()))
    request.setRequestHeader(header, value);
  request.responseType = "json";
  request.upload.onprogress = (e) => {
    if (e.lengthComputable) onSent(e.loaded / e.total);
  };
  const answered = new Promise<void>((done, fail) => {
    request.onload = () => done();
    request.onerror = () =>
      fail(new Error("Ruhe is not reached: the file was not sent."));
  });
  request.send(file);
  return answered.then(() =>
    told(
      Promise.resolve({
        data: request.response as Schemas["FileView"],
        error: request.response as unknown,
        response: new Response(null, { status: request.status }),
      }),
    ),
  );
}

/** Sends a .zip as it is. */
export const sendPackage = (circuit: string, file: File) =>
  sendBytes(
    `/api/circuits/${circuit}/packages?file=${encodeURIComponent(file.name)}`,
    "application/zip",
    file,
  );

/** Sends a photo, made smaller if it is a large one: a plate is legible at 1600 px.
 * Without a circuit it is of the kit. */
export async function sendPhoto(
  circuit: string | null,
  file: File,
): Promise<string> {
  const bitmap = await createImageBitmap(file).catch(() => null);
  const scale = bitmap
    ? Math.min(1, 1600 / Math.max(bitmap.width, bitmap.height))
    : 1;
  let body: Blob = file;
  if (bitmap && scale < 1) {
    const canvas = document.createElement("canvas");
    [canvas.width, canvas.height] = [
      Math.round(bitmap.width * scale),
      Math.round(bitmap.height * scale),
    ];
    canvas
      .getContext("2d")
      ?.drawImage(bitmap, 0, 0, canvas.width, canvas.height);
    body = await new Promise((done) =>
      canvas.toBlob((b) => done(b ?? file), "image/jpeg", 0.85),
    );
  }
  return sendBytes(
    circuit === null ? "/api/kit/photos" : `/api/circuits/${circuit}/photos`,
    "application/octet-stream",
    body,
  );
}
