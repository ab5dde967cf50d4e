import { client, told, type Schemas } from "./client";
import { confirmed } from "./session";

const at = (id: string) => ({ params: { path: { id } } });

/** Writes of a visit beside its tests: arrival, charge, ports, start-up, signature. */
export const visit = {
  arrival: (id: string) => (body: Schemas["ArrivalInput"]) =>
    told(client.POST("/api/circuits/{id}/arrival", { ...at(id), body })),
  target: (id: string) => (body: Schemas["TargetInput"]) =>
    told(client.POST("/api/circuits/{id}/target", { ...at(id), body })),
  row: (id: string) => (body: Schemas["RowInput"]) =>
    told(client.POST("/api/circuits/{id}/ledger", { ...at(id), body })),
  ports: (id: string) => (body: Schemas["PortsInput"]) =>
    told(client.POST("/api/circuits/{id}/ports", { ...at(id), body })),
  broken: (id: string) => (body: Schemas["BreakInput"]) =>
    told(client.POST("/api/circuits/{id}/vacuum-broken", { ...at(id), body })),
  set: (id: string) => (body: Schemas["SetInput"]) =>
    told(client.POST("/api/circuits/{id}/sets", { ...at(id), body })),
  consent: (id: string) => (body: Schemas["ConsentInput"]) =>
    told(client.POST("/api/circuits/{id}/consents", { ...at(id), body })),
  /** `password`: of a witness who is known here by this name. */
  witness:
    (id: string) =>
    async ({
      password,
      ...body
    }: Schemas["WitnessInput"] & { password: string | null }) =>
      told(
        client.POST("/api/circuits/{id}/witness", {
          ...at(id),
          headers:
            password === null ? {} : await confirmed(password, body.name),
          body,
        }),
      ),
  addition: (id: string) => (body: Schemas["AdditionInput"]) =>
    told(client.POST("/api/circuits/{id}/additions", { ...at(id), body })),
  next: (id: string) => (body: Schemas["VisitInput"]) =>
    told(client.POST("/api/circuits/{id}/visits", { ...at(id), body })),
};

/** What is worked out while it is typed; nothing is kept. */
export const tried = {
  mass: (body: Schemas["MassInput"]) =>
    told(client.POST("/api/bench/mass", { body })),
  arrival: (id: string) => (body: Schemas["ArrivalInput"]) =>
    told(client.POST("/api/circuits/{id}/tried/arrival", { ...at(id), body })),
  target: (id: string) => (body: Schemas["TargetInput"]) =>
    told(client.POST("/api/circuits/{id}/tried/target", { ...at(id), body })),
  stop: (id: string) => (body: Schemas["ScaleInput"]) =>
    told(client.POST("/api/circuits/{id}/tried/stop", { ...at(id), body })),
  set: (id: string) => (body: Schemas["SetInput"]) =>
    told(client.POST("/api/circuits/{id}/tried/set", { ...at(id), body })),
};
