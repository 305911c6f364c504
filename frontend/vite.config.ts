import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

const server = "http://127.0.0.1:8765";

export default defineConfig({
  plugins: [react()],
  build: { outDir: "../src/hollow_pin/web", emptyOutDir: true, assetsInlineLimit: 0 },
  server: { proxy: { "/api": { target: server, ws: true } } },
});
