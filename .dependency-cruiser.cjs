// The layers of docs/architecture.md: who may import whom.
const rule = (name, from, to) => ({ name, severity: "error", from: { path: from }, to: { path: to } });

module.exports = {
  forbidden: [
    { name: "no-circular", severity: "error", from: {}, to: { circular: true } },
    rule("core-stands-alone", "^src/lib/core/", "^src/(?!lib/core/)"),
    {
      name: "core-imports-only-zod-and-immer",
      severity: "error",
      from: { path: "^src/lib/core/" },
      to: { dependencyTypes: ["npm", "npm-dev", "core", "npm-no-pkg"], pathNot: "node_modules/(zod|immer)/" }
    },
    rule("cli-knows-core-server-and-api", "^src/cli/", "^src/(lib/(ui|playback)|routes|demo)/"),
    rule("nothing-knows-cli", "^src/(?!cli/)", "^src/cli/"),
    rule(
      "waveform-knows-core-only",
      "^src/lib/waveform/",
      "^src/(lib/(server|ui|api|playback)|routes|demo)/"
    ),
    rule("playback-knows-no-waveform", "^src/lib/(playback|server|api)/", "^src/lib/waveform/"),
    rule("playback-knows-core-only", "^src/lib/playback/", "^src/(lib/(server|ui|api)|routes|demo)/"),
    rule("api-knows-core-only", "^src/lib/api/", "^src/(lib/(server|ui|playback)|routes|demo)/"),
    rule("server-knows-no-pages", "^src/lib/server/", "^src/(lib/(ui|playback)|routes|demo)/"),
    rule("ui-knows-no-server", "^src/lib/ui/", "^src/(lib/server|routes|demo)/"),
    rule(
      "units-and-audio-below-effects",
      "^src/lib/core/(units|audio|kernels)/",
      "^src/lib/core/(hum|effects|measure|session|render|formats)/"
    ),
    rule(
      "hum-below-effects",
      "^src/lib/core/hum/",
      "^src/lib/core/(effects|measure|session|render|formats)/"
    ),
    rule(
      "effects-below-session",
      "^src/lib/core/(effects|measure)/",
      "^src/lib/core/(session|render|formats)/"
    ),
    rule("session-below-render", "^src/lib/core/session/", "^src/lib/core/(render|formats|measure)/")
  ],
  options: {
    doNotFollow: { path: "node_modules" },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: "tsconfig.json" },
    enhancedResolveOptions: { extensions: [".ts", ".js", ".svelte", ".mjs"] }
  }
};
