import createClient from "openapi-fetch";
import { owner } from "./owner";
import { port } from "./port";
import { room } from "./room";
import { said } from "./say";
import type { paths } from "./schema.gen";

export { Refusal, device, freshId, onSignedOut, said, told } from "./say";
export type { Schemas } from "./say";

export const client = createClient<paths>({ baseUrl: room, fetch: port });

client.use({
  onRequest({ request }) {
    if (request.method === "GET") return;
    for (const [name, value] of Object.entries(said()))
      request.headers.set(name, value);
    // Another page of this browser may have signed somebody else in: what is entered here goes out as nobody but whose
    // page this is. Coming in and going out is told apart from that.
    const id = owner()?.id;
    if (id && !new URL(request.url).pathname.includes("/api/session"))
      request.headers.set("Ruhe-Person", id);
  },
});
