import { defineConfig } from "vite";

// The built page is served by the Python side, from zensur/server/page.
export default defineConfig({
  esbuild: { jsx: "automatic" },
  build: {
    outDir: "../zensur/server/page",
    emptyOutDir: true,
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 700,
    rollupOptions: {
      // React-Bootstrap marks its modules for servers that render; here there is none.
      onwarn: (warning, warn) => warning.code !== "MODULE_LEVEL_DIRECTIVE" && warn(warning),
    },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8017" } },
});
