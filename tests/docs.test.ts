// The pages that are written from the code are those that the code would write now.
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { format, resolveConfig } from "prettier";
import { describe, expect, it } from "vitest";
import { formatPage } from "../tools/formatPage";
import { routes } from "../tools/routes";

describe("docs/format.md", () => {
  it("is what `npm run docs` writes", async () => {
    const options = await resolveConfig("docs/format.md");
    const wanted = await format(formatPage(), { ...options, parser: "markdown" });
    expect(readFileSync("docs/format.md", "utf8")).toBe(wanted);
  });

  it("names every address of the server, and no other", () => {
    const root = "src/routes/api";
    const files = readdirSync(root, { recursive: true })
      .map(String)
      .filter((f) => f.endsWith("+server.ts"));
    const there = files.flatMap((file) => {
      const text = readFileSync(path.join(root, file), "utf8");
      const address = `/api/${path.dirname(file)}`;
      return ["GET", "POST", "DELETE", "PATCH", "HEAD", "OPTIONS"]
        .filter((method) => new RegExp(`(const|as) ${method}\\b`).test(text))
        .map((method) => `${method} ${address}`);
    });
    expect(routes.map(({ method, path: address }) => `${method} ${address}`).sort()).toEqual(there.sort());
  });
});
