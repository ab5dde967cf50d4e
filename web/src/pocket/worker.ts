/// <reference lib="webworker" />
// Runs Ruhe's own rules, compiled to WebAssembly, beside the page: judging a long test must not hold up a thumb.

interface Exports {
  memory: WebAssembly.Memory;
  alloc(length: number): number;
  free(at: number, length: number): void;
  answer(
    call: number,
    length: number,
    more: number,
    moreLength: number,
  ): number;
  release(at: number): void;
}

/** What comes from the page. */
export interface ToWorker {
  n: number;
  call: unknown;
  bytes?: ArrayBuffer | undefined;
}
/** What goes back. */
export interface FromWorker {
  n: number;
  told: unknown;
}

async function load(): Promise<Exports> {
  const response = await fetch(__WASM__);
  const bytes = await response.arrayBuffer();
  const { instance } = await WebAssembly.instantiate(bytes, {});
  return instance.exports as unknown as Exports;
}

let ready = load();

/** An answer after a trap: what lies in that memory can no longer be believed, and the pocket begins empty. */
function afterFault(e: unknown) {
  const isTrap = e instanceof WebAssembly.RuntimeError;
  if (isTrap) ready = load();
  return { error: String(e), ...(isTrap && { trapped: true }) };
}

async function told({ call, bytes }: ToWorker): Promise<unknown> {
  const wasm = await ready;
  const put = (data: Uint8Array) => {
    const at = wasm.alloc(data.length);
    new Uint8Array(wasm.memory.buffer, at, data.length).set(data);
    return at;
  };
  const text = new TextEncoder().encode(JSON.stringify(call));
  const more = new Uint8Array(bytes ?? new ArrayBuffer(0));
  const [at, moreAt] = [put(text), put(more)];
  const out = wasm.answer(at, text.length, moreAt, more.length);
  // The memory may have grown meanwhile: its buffer is asked for anew.
  const length = new DataView(wasm.memory.buffer).getUint32(out, true);
  const answer = new TextDecoder().decode(
    new Uint8Array(wasm.memory.buffer, out + 4, length),
  );
  wasm.release(out);
  wasm.free(at, text.length);
  wasm.free(moreAt, more.length);
  return JSON.parse(answer);
}

// One after another, in the order in which they were asked.
let last: Promise<unknown> = Promise.resolve();
self.onmessage = ({ data }: MessageEvent<ToWorker>) => {
  last = last
    .then(() => told(data))
    .catch(afterFault)
    .then((answer) =>
      self.postMessage({ n: data.n, told: answer } satisfies FromWorker),
    );
};
