import { gzipSync } from "node:zlib";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** What the script of the first page may weigh, gzip: half a second on a slow phone's line. */
const MOST_OF_FIRST_ROUTE = 200_000;

/** Weighs the script that has come before the first page stands, and fails where it is too heavy. */
function firstRoute(): Plugin {
  return {
    name: "first-route",
    generateBundle(_options, bundle) {
      const chunks = new Map(
        Object.values(bundle).flatMap((own) =>
          own.type === "chunk" ? [[own.fileName, own] as const] : [],
        ),
      );
      const met = new Set<string>();
      const take = (name: string) => {
        const chunk = chunks.get(name);
        if (chunk && !met.has(name)) {
          met.add(name);
          chunk.imports.forEach(take);
        }
      };
      [...chunks.values()]
        .filter((own) => own.isEntry)
        .forEach((own) => take(own.fileName));
      const bytes = [...met]
        .map((name) => gzipSync(chunks.get(name)?.code ?? "").length)
        .reduce((sum, own) => sum + own, 0);
      if (met.size === 0 || bytes > MOST_OF_FIRST_ROUTE) {
        this.error(
          `The first route takes ${bytes} bytes of script, gzip; ${MOST_OF_FIRST_ROUTE} are the most. Load lazily what it does not show.`,
        );
      }
      console.log(`first route: ${bytes} bytes of script, gzip`);
    },
  };
}

export default defineConfig({
  plugins: [react(), firstRoute()],
  build: { target: "es2022", sourcemap: false, chunkSizeWarningLimit: 1200 },
  server: { proxy: { "/api": "http://127.0.0.1:4747" } },
});
