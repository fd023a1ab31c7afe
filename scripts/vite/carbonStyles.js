import postcss from "postcss";

/**
 * Parts of Carbon that are not used here, and whose rules relate any element to any other beside it: because of them the browser would
 * style a whole list anew whenever a row comes, goes or moves.
 */
const UNUSED = /\.bx--(?:time-picker--fluid|user-avatar-group)/;

/** Carbon's style sheet without the fonts that it names on a network of others (the application ships its own), and without what slows it down. */
export function carbonStyles() {
  return {
    name: "wring-carbon-styles",
    enforce: "pre",
    transform(code, id) {
      if (!id.includes("carbon-components-svelte/css")) return null;
      const sheet = postcss.parse(code);
      sheet.walkAtRules("font-face", (rule) => {
        rule.remove();
      });
      sheet.walkRules((rule) => {
        const used = rule.selectors.filter((selector) => !UNUSED.test(selector));
        if (used.length === 0) rule.remove();
        else if (used.length < rule.selectors.length) rule.selectors = used;
      });
      return { code: sheet.toString(), map: null };
    }
  };
}
