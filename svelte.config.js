import adapter from "@sveltejs/adapter-node";
import { vitePreprocess } from "@sveltejs/vite-plugin-svelte";
import { optimizeImports } from "carbon-preprocess-svelte";

export default {
  preprocess: [vitePreprocess(), optimizeImports()],
  compilerOptions: {
    runes: ({ filename }) => (filename.includes("node_modules") ? undefined : true)
  },
  kit: {
    adapter: adapter({ out: "build/app" })
  }
};
