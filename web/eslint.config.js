// What the front end holds to beside the compiler's checks.
import js from "@eslint/js";
import svelte from "eslint-plugin-svelte";
import globals from "globals";
import ts from "typescript-eslint";
import svelteConfig from "./svelte.config.js";

const bindings =
  "use bind:this or an attachment (lib/places.ts): the page is not searched";

export default ts.config(
  { ignores: ["dist/", "node_modules/", "src/lib/schema.d.ts"] },
  js.configs.recommended,
  ...ts.configs.strict,
  ...ts.configs.stylistic,
  ...svelte.configs.recommended,
  {
    languageOptions: { globals: { ...globals.browser } },
    rules: {
      "@typescript-eslint/consistent-type-definitions": ["error", "type"],
      "@typescript-eslint/no-unused-vars": [
        "error",
        { argsIgnorePattern: "^_" },
      ],
      // names may come from anywhere; they are looked up in records
      "@typescript-eslint/no-dynamic-delete": "off",
      // links are plain: lib/route.svelte.ts follows them, and knows what is the browser's
      "svelte/no-navigation-without-resolve": "off",
      // sets and maps here are made anew, never changed
      "svelte/prefer-svelte-reactivity": "off",
      "no-restricted-globals": [
        "error",
        { name: "fetch", message: "use the calls in lib/calls" },
      ],
      "no-restricted-properties": [
        "error",
        { object: "document", property: "querySelector", message: bindings },
        { object: "document", property: "querySelectorAll", message: bindings },
      ],
    },
  },
  {
    files: ["**/*.svelte", "**/*.svelte.ts"],
    languageOptions: { parserOptions: { parser: ts.parser, svelteConfig } },
    rules: {
      "no-restricted-syntax": [
        "error",
        {
          selector: "SvelteDirective[kind='EventHandler']",
          message: "write events as attributes: onclick, not on:click",
        },
      ],
    },
  },
  {
    files: ["src/parts/**"],
    rules: {
      "no-restricted-imports": [
        "error",
        {
          patterns: [
            {
              group: ["**/calls/*"],
              message:
                "parts do not fetch: they are given a state or functions",
            },
          ],
        },
      ],
    },
  },
);
