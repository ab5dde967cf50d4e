import { queryOptions, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, onSignedOut, told, type Schemas } from "./client";
import { belongsTo, onLeaving } from "./owner";
import { useEffect } from "react";
import { isReachable } from "./reach";

export type Session = Schemas["SessionView"];

export const sessionQuery = queryOptions({
  queryKey: ["session"],
  queryFn: async () => {
    const session = await told(client.GET("/api/session"));
    noted(session);
    return session;
  },
  staleTime: 60_000,
});

/** Who is signed in here and what they may do. */
export function useSession() {
  const cache = useQueryClient();
  // Shut out elsewhere, or too long away: the next call says so.
  useEffect(
    () =>
      onSignedOut(
        () => void cache.invalidateQueries({ queryKey: ["session"] }),
      ),
    [cache],
  );
  return useQuery(sessionQuery).data;
}

/** Notes whose page this is now. */
function noted({ person, must_sign_in }: Session) {
  if (person) belongsTo({ id: person.id, name: person.name });
  else belongsTo(must_sign_in ? null : { id: "", name: "" });
}

/** What one person looked at is not shown to the next. */
export function useForgetting() {
  const cache = useQueryClient();
  useEffect(
    () =>
      onLeaving(() => {
        cache.removeQueries({
          predicate: (q) => q.queryKey[0] !== "session",
        });
      }),
    [cache],
  );
}

/** Whether something may be done from here; while that is not known, it may: the server has the last word. */
export function useMay(right: Schemas["Right"]): boolean {
  const session = useSession();
  return session?.rights.includes(right) ?? true;
}

/** Who else is known here. */
export const usePeople = (wanted = true) =>
  useQuery({
    queryKey: ["people"],
    queryFn: () => told(client.GET("/api/people")),
    enabled: wanted,
  }).data;

export const useDevices = () =>
  useQuery({
    queryKey: ["devices"],
    queryFn: () => told(client.GET("/api/devices")),
  }).data;

/** Signed out: nothing that was taken along stays on this device but what was not sent. */
const left = () => belongsTo(null);

/** What was refused at the door lately. */
export const useRefusals = (wanted: boolean) =>
  useQuery({
    queryKey: ["refusals"],
    queryFn: () => told(client.GET("/api/refusals")),
    enabled: wanted,
  }).data;

export const people = {
  signIn: (body: Schemas["SignInInput"]) =>
    told(client.POST("/api/session", { body })),
  signOut: () => told(client.DELETE("/api/session")).then(left),
  signOutEverywhere: () => told(client.DELETE("/api/sessions")).then(left),
  password: (body: Schemas["PasswordInput"]) =>
    told(client.PUT("/api/session/password", { body })),
  /** `own`: one's own password again; nothing, where nobody is known yet. */
  add: async ({ own, ...body }: Schemas["PersonInput"] & { own: string }) =>
    told(client.POST("/api/people", { body, headers: await confirmed(own) })),
  change: async ({
    id,
    own,
    ...body
  }: Schemas["PersonChange"] & { id: string; own: string }) =>
    told(
      client.PUT("/api/people/{id}", {
        params: { path: { id } },
        body,
        headers: await confirmed(own),
      }),
    ),
  shutOut: (id: string) =>
    told(client.DELETE("/api/devices/{id}", { params: { path: { id } } })),
  showCode: (password: string) =>
    told(client.POST("/api/pairing", { body: { password } })),
  pair: (body: Schemas["PairInput"]) =>
    told(client.POST("/api/pairing/use", { body })),
};

/** A password once more: the header that goes with the signature. Nothing, where nobody is known by name. */
export async function confirmed(
  password: string,
  name?: string,
): Promise<Record<string, string>> {
  if (!password && !name) return {};
  // Without the server nobody can check it: what is signed waits, and asks for it when it is sent.
  if (!isReachable()) return {};
  const { token } = await told(
    client.POST("/api/session/again", {
      body: { name: name ?? null, password },
    }),
  );
  return { "Ruhe-Confirmed": token };
}

/** What this device is, in words a person knows it by. */
export function deviceName(): string {
  const agent = navigator.userAgent;
  const kinds: [RegExp, string][] = [
    [/iPhone/, "iPhone"],
    [/iPad/, "iPad"],
    [/Android.*Mobile/, "Android phone"],
    [/Android/, "Android tablet"],
    [/Windows/, "Windows computer"],
    [/Mac OS/, "Mac"],
    [/Linux/, "Linux computer"],
  ];
  return kinds.find(([sign]) => sign.test(agent))?.[1] ?? "a browser";
}
