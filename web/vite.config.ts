import { fileURLToPath } from "node:url";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

const modules = fileURLToPath(new URL("./node_modules", import.meta.url));

export default defineConfig({
  plugins: [react(), tailwindcss()],
  resolve: {
    alias: {
      "@archivo": `${modules}/@fontsource-variable/archivo/files`,
      "@figures": `${modules}/@fontsource-variable/jetbrains-mono/files`,
      "@": fileURLToPath(new URL("./src", import.meta.url)),
    },
  },
  // Fonts stay files: a policy without data: fonts, and a page that paints before they are here.
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": "http://127.0.0.1:7411" } },
});
