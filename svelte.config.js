import adapter from "@sveltejs/adapter-node";
import { vitePreprocess } from "@sveltejs/vite-plugin-svelte";
import { optimizeImports } from "carbon-preprocess-svelte";

export default {
  preprocess: [vitePreprocess(), optimizeImports()],
  compilerOptions: {
    runes: ({ filename }) => (filename.includes("node_modules") ? undefined : true)
  },
  kit: {
    adapter: adapter({ out: "build/app" }),
    typescript: {
      // What the measurements and the docs are made with is checked like the rest.
      config: (config) => {
        config.include.push("../bench/**/*.ts", "../tools/**/*.ts");
      }
    },
    csp: {
      directives: {
        "default-src": ["self"],
        // The kernels are WebAssembly.
        "script-src": ["self", "wasm-unsafe-eval"],
        // Carbon and Svelte set styles on elements.
        "style-src": ["self", "unsafe-inline"],
        "img-src": ["self", "data:", "blob:"],
        "media-src": ["self", "blob:"],
        "object-src": ["none"],
        "base-uri": ["none"],
        "form-action": ["self"],
        "frame-ancestors": ["none"]
      }
    }
  }
};
