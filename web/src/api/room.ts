/** The drill whose page this is; nothing on the page of the jobs. A drill is a small Ruhe of its own below this
 * address. */
export const drill = /^\/drill\/([^/]+)/.exec(location.pathname)?.[1] ?? null;

/** Where everything of this page stands. */
export const room = drill ? `/drill/${drill}` : "";

/** An address of the API, of a file or a page, in this room. */
export const here = (path: string) => room + path;
