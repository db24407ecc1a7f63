import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { brotliCompressSync, constants, gzipSync } from "node:zlib";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** packed writes scripts and styles compressed beside themselves, so that the server has nothing to compress: NAME.br for those who read Brotli, NAME.gz for the others. */
const packed = (): Plugin => ({
  name: "packed",
  apply: "build",
  writeBundle({ dir }, bundle) {
    for (const name of Object.keys(bundle).filter((n) => /\.(js|css|svg)$/.test(n))) {
      const file = join(dir ?? "", name);
      const text = readFileSync(file);
      if (text.length < 1024) continue;
      writeFileSync(`${file}.gz`, gzipSync(text, { level: 9 }));
      writeFileSync(`${file}.br`, brotliCompressSync(text, { params: { [constants.BROTLI_PARAM_SIZE_HINT]: text.length } }));
    }
  },
});

export default defineConfig({
  plugins: [react(), tailwindcss(), packed()],
  build: { outDir: "../internal/web/dist", emptyOutDir: false, assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": { target: process.env.INKLATCH ?? "http://127.0.0.1:8123", changeOrigin: false } } },
});
