import react from "@vitejs/plugin-react";
import { createHash } from "node:crypto";
import { existsSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import { brotliCompressSync, gzipSync } from "node:zlib";
import { defineConfig, type Plugin } from "vite";

const RULES = "public/ruhe.wasm";
const hash = (bytes: string | Uint8Array) =>
  createHash("sha256").update(bytes).digest("hex").slice(0, 12);
const rules = existsSync(RULES)
  ? `/ruhe.wasm?${hash(readFileSync(RULES))}`
  : "";

/** Writes the service worker with the list of what it keeps: every file of the page, by names that change with it. */
function kept(): Plugin {
  return {
    name: "kept",
    apply: "build",
    generateBundle(_, bundle) {
      const files = Object.keys(bundle)
        // The pictures of the handbook are looked at with the network, or not.
        .filter((f) => f.startsWith("assets/") && !f.endsWith(".png"))
        .map((f) => `/${f}`);
      const list = ["/", "/icon.svg", "/manifest.webmanifest", ...files];
      const index = bundle["index.html"];
      const page = index?.type === "asset" ? index.source : "";
      const source = readFileSync("src/pocket/keeper.js", "utf8")
        .replace("__LIST__", JSON.stringify(list))
        .replace("__RULES__", JSON.stringify(rules))
        .replace("__VERSION__", hash(`${list.join()} ${rules} ${page}`));
      this.emitFile({ type: "asset", fileName: "keeper.js", source });
    },
  };
}

/** Writes each file once more as small as it can be: the server has no time for that while somebody waits. */
function small(): Plugin {
  return {
    name: "small",
    apply: "build",
    closeBundle() {
      const all = readdirSync("dist", { recursive: true, encoding: "utf8" });
      for (const name of all.filter((f) => /\.(js|css|wasm|svg)$/.test(f))) {
        const bytes = readFileSync(`dist/${name}`);
        if (bytes.length < 1_000) continue;
        writeFileSync(`dist/${name}.gz`, gzipSync(bytes, { level: 9 }));
        writeFileSync(`dist/${name}.br`, brotliCompressSync(bytes));
      }
    },
  };
}

export default defineConfig({
  plugins: [react(), kept(), small()],
  define: { __WASM__: JSON.stringify(rules) },
  build: { target: "es2022", assetsInlineLimit: 0 },
  server: { proxy: { "/api": "http://127.0.0.1:7420" } },
});
