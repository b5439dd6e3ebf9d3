import { svelte } from "@sveltejs/vite-plugin-svelte";
import { optimizeCss } from "carbon-preprocess-svelte";
import type { AtRule } from "postcss";
import { defineConfig } from "vite";

/** Carbon's style sheet names fonts on a server of its own; ours ship with the program. */
const noRemoteFonts = {
  postcssPlugin: "no-remote-fonts",
  AtRule: {
    "font-face": (rule: AtRule) => {
      if (/https?:/.test(rule.toString())) rule.remove();
    },
  },
};

export default defineConfig({
  plugins: [svelte(), optimizeCss({ preserveAllIBMFonts: true })],
  css: { postcss: { plugins: [noRemoteFonts] } },
  build: {
    outDir: "dist/app",
    emptyOutDir: true,
    assetsInlineLimit: 0,
    target: "es2022",
    license: { fileName: "licences.json" },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8737" } },
});
