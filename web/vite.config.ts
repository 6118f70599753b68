import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  worker: { format: "es" },
  build: { target: "es2022", chunkSizeWarningLimit: 900 },
  // Generous: the machine that runs the tests may be busy with other work.
  test: { testTimeout: 60_000 },
  server: { proxy: { "/api": { target: "http://127.0.0.1:7878", ws: true } } },
});
