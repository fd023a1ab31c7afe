/** Carbon's style sheet names fonts on a network of others. They are stripped: the application ships its own. */
export function localFonts() {
  return {
    name: "wring-local-fonts",
    enforce: "pre",
    transform(code, id) {
      if (!id.includes("carbon-components-svelte/css")) return null;
      return { code: code.replace(/@font-face\s*\{[^}]*\}/g, ""), map: null };
    }
  };
}
