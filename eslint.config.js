import js from "@eslint/js";
import prettier from "eslint-config-prettier";
import svelte from "eslint-plugin-svelte";
import globals from "globals";
import ts from "typescript-eslint";
import svelteConfig from "./svelte.config.js";

export default ts.config(
  {
    ignores: [
      "build/",
      ".svelte-kit/",
      "node_modules/",
      "src/lib/core/kernels/assembly/",
      "**/*.generated.ts",
      "test-results/",
      "playwright-report/",
      "data/",
      "demo-data/"
    ]
  },
  js.configs.recommended,
  ...ts.configs.strict,
  ...svelte.configs.recommended,
  prettier,
  ...svelte.configs.prettier,
  { languageOptions: { globals: { ...globals.browser, ...globals.node } } },
  {
    files: ["**/*.svelte", "**/*.svelte.ts"],
    languageOptions: { parserOptions: { extraFileExtensions: [".svelte"], parser: ts.parser, svelteConfig } },
    rules: {
      // Links lead within one origin; the application has no base path.
      "svelte/no-navigation-without-resolve": "off"
    }
  },
  {
    // State that is replaced as a whole ($state.raw), or that no markup reads.
    files: ["src/lib/ui/state/**"],
    rules: { "svelte/prefer-svelte-reactivity": "off" }
  },
  {
    rules: {
      "no-undef": "off",
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_", varsIgnorePattern: "^_" }],
      "@typescript-eslint/no-non-null-assertion": "error",
      // What a fixture of Playwright needs of others it takes apart: nothing of none.
      "no-empty-pattern": ["error", { allowObjectPatternsAsParameters: true }],
      eqeqeq: "error",
      "no-console": "error"
    }
  },
  {
    // Rules that know types: a promise that no one waits for hides what went wrong.
    files: ["src/**/*.ts"],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      "@typescript-eslint/no-floating-promises": ["error", { ignoreVoid: false }],
      "@typescript-eslint/no-misused-promises": "error",
      "@typescript-eslint/await-thenable": "error"
    }
  },
  {
    files: ["src/**/*.svelte", "src/**/*.svelte.ts"],
    languageOptions: {
      parserOptions: {
        projectService: true,
        tsconfigRootDir: import.meta.dirname,
        extraFileExtensions: [".svelte"],
        parser: ts.parser
      }
    },
    rules: { "@typescript-eslint/no-floating-promises": ["error", { ignoreVoid: false }] }
  },
  { files: ["scripts/**", "server/**", "bench/**"], rules: { "no-console": "off" } }
);
