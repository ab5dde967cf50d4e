/// <reference types="vite/client" />

/** Address of the rules as WebAssembly; empty: they were not built. */
declare const __WASM__: string;
