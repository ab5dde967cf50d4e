import { useQuery } from "@tanstack/react-query";
import createClient from "openapi-fetch";
import { createContext, useContext } from "react";
import { useSentences, useWrite } from "./queries";
import { said, told, type Schemas } from "./client";
import { setClock } from "./clock";
import { drill } from "./room";
import type { paths } from "./schema.gen";

/** The drills are led from outside of their rooms: these calls go to the house itself, from wherever. */
const house = createClient<paths>({ baseUrl: "" });
house.use({
  onRequest({ request }) {
    if (request.method === "GET") return;
    for (const [name, value] of Object.entries(said()))
      request.headers.set(name, value);
  },
});

/** How often a drill is looked at, ms: its clock stands when nobody looks. */
const LOOK = 1_000;

export const useShelf = () =>
  useQuery({
    queryKey: ["drills"],
    queryFn: () => told(house.GET("/api/drills")),
  });

export const drills = {
  begin: (body: Schemas["BeginInput"]) =>
    told(house.POST("/api/drills", { body })),
  forget: (id: string) =>
    told(house.DELETE("/api/drills/{id}", { params: { path: { id } } })),
  make: (body: Schemas["Form"]) =>
    told(house.POST("/api/drills/forms", { body })),
  /** A drill as a teacher handed it out. */
  take: async (file: File) =>
    told(
      house.POST("/api/drills/files", {
        body: JSON.parse(await file.text()) as Schemas["Scenario"],
      }),
    ),
};

const id = drill ?? "";
const path = { id };

/** The drill of this page, looked at every second; sets the clock. */
export function useDrillNow() {
  const query = useSentences();
  const asked = useQuery({
    queryKey: ["drill", query],
    queryFn: async () => {
      const view = await told(
        house.GET("/api/drills/{id}", { params: { path, query } }),
      );
      setClock(view.now_ms, view.times);
      return view;
    },
    enabled: drill !== null,
    refetchInterval: LOOK,
    staleTime: 0,
  });
  return { view: asked.data, error: asked.error };
}

/** The drill that this page is in, if it is in one. */
export const InDrill = createContext<Schemas["DrillView"] | null>(null);
export const useDrill = () => useContext(InDrill);

export const useSpeed = () =>
  useWrite((speed: Schemas["Speed"]) =>
    told(
      house.PUT("/api/drills/{id}/speed", {
        params: { path },
        body: { speed },
      }),
    ),
  );
export function useHands() {
  const query = useSentences();
  return useWrite((body: Schemas["ActInput"]) =>
    told(
      house.POST("/api/drills/{id}/acts", { params: { path, query }, body }),
    ),
  );
}
export const useLookAtWords = () =>
  useWrite(() =>
    told(house.POST("/api/drills/{id}/looks", { params: { path } })),
  );
export const useDecide = () =>
  useWrite((body: Schemas["Decision"]) =>
    told(house.POST("/api/drills/{id}/decision", { params: { path }, body })),
  );
