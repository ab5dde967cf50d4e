import { askPocket, hasPocket, type PocketRequest } from "../pocket/pocket";
import { shelf } from "../pocket/shelf";
import { pocketReady, sync } from "../pocket/sync";
import { hasWaiting, keepCommand } from "./outbox";
import { isAway, isReachable, reached } from "./reach";

/** So long the server may take to answer a question before the pocket does, ms. */
const PATIENCE = 6_000;
/** Questions that the pocket need not answer: the last answer is kept. */
const KEPT = ["/api/session"];

function asPocketRequest(request: Request, body: unknown): PocketRequest {
  const url = new URL(request.url);
  const header = (name: string) => request.headers.get(name) ?? "";
  return {
    method: request.method,
    path: url.pathname,
    query: Object.fromEntries(url.searchParams),
    body,
    id: header("Ruhe-Id"),
    device: header("Ruhe-Device"),
    ...(header("Ruhe-Clock") && { said_ms: Number(header("Ruhe-Clock")) }),
  };
}

const replied = (status: number, body: unknown) =>
  new Response(status === 204 ? null : JSON.stringify(body), {
    status,
    headers: { "Content-Type": "application/json" },
  });

/** Sends; throws if nobody answers. */
async function sent(request: Request, timeout?: number): Promise<Response> {
  try {
    const response = await fetch(
      request,
      timeout ? { signal: AbortSignal.timeout(timeout) } : {},
    );
    if (isAway(response.status)) throw new TypeError("away");
    reached(true);
    return response;
  } catch (e) {
    reached(false);
    throw e;
  }
}

async function looked(request: Request): Promise<Response> {
  const { pathname } = new URL(request.url);
  const local = async () => {
    if (KEPT.includes(pathname)) {
      const kept = await shelf.get<unknown>(pathname);
      return kept === undefined ? null : replied(200, kept);
    }
    await pocketReady();
    const reply = await askPocket(asPocketRequest(request, null));
    return reply && reply.status < 400
      ? replied(reply.status, reply.body)
      : null;
  };
  // Known to be away: the pocket first, so that nobody waits for what will not come.
  if (!isReachable() && hasPocket) {
    const reply = await local();
    if (reply) return reply;
  }
  try {
    const response = await sent(
      request.clone(),
      hasPocket ? PATIENCE : undefined,
    );
    if (response.ok && KEPT.includes(pathname))
      void shelf.set(pathname, await response.clone().json());
    return response;
  } catch (e) {
    const reply = hasPocket ? await local() : null;
    if (reply) return reply;
    throw e;
  }
}

/** Whether an entry may wait: it belongs to a circuit, and the rules for it are in the pocket. */
const canWait = (pathname: string) =>
  /^\/api\/(circuits\/[^/]+\/|tests\/|readings\/)/.test(pathname) &&
  !/\/(tried\/|csv$|packages$|gauge$)/.test(pathname);

/** Asked with a body, and changing nothing. */
const isQuestion = (pathname: string) =>
  /^\/api\/bench\/|\/tried\//.test(pathname);

async function entered(request: Request): Promise<Response> {
  const { pathname } = new URL(request.url);
  const isJson = request.headers.get("Content-Type")?.includes("json") ?? true;
  // What came later must not overtake what is waiting.
  const mustWait = canWait(pathname) && hasPocket && hasWaiting();
  if (!mustWait) {
    try {
      const response = await sent(request.clone());
      // What was just entered is what one would go on with without the server.
      const circuit = /^\/api\/circuits\/([^/]+)\//.exec(pathname)?.[1];
      if (response.ok && circuit) sync([circuit]);
      return response;
    } catch (e) {
      if (!hasPocket || !(canWait(pathname) || isQuestion(pathname))) throw e;
    }
  }
  await pocketReady();
  const blob = isJson ? null : await request.clone().blob();
  const text = isJson ? await request.clone().text() : "";
  const asked = asPocketRequest(
    request,
    text ? (JSON.parse(text) as unknown) : null,
  );
  const reply = await askPocket(asked, await blob?.arrayBuffer());
  // 404: it was not taken along, so nothing here can say whether it may be; the server may be there all the same.
  if (!reply || reply.status === 404) return await sent(request);
  if (reply.status < 400 && !isQuestion(pathname))
    // Told as done only once it is kept where neither a reload nor an empty battery loses it.
    await keepCommand({ ...asked, blob });
  return replied(reply.status, reply.body);
}

/** How the page reaches the server, or goes on without it. */
export const port = (request: Request): Promise<Response> =>
  request.method === "GET" ? looked(request) : entered(request);
