<!-- Gain over frequency of an effect that is a filter. -->
<script lang="ts">
  import { line, scaleLinear, scaleLog } from "d3";
  import { responseDb, type Section } from "$lib/core/audio/biquadDesign";
  import { humSections } from "$lib/core/effects/humRemoval";
  import { toneSections } from "$lib/core/effects/tone";
  import { choice } from "$lib/core/effects/description";
  import { useEditor } from "../../state/editor.svelte";
  import type { PanelProps } from "./pictures";

  let { params, effect }: PanelProps = $props();
  const { sampleRate } = useEditor();
  const WIDTH = 260;
  const HEIGHT = 170;
  const RANGE = 26;
  const x = scaleLog([20, 20000], [28, WIDTH - 6]);
  const y = scaleLinear([-RANGE, RANGE], [HEIGHT - 16, 6]);
  const marks = [20, 100, 1000, 10000];
  const levels = [-24, -12, 0, 12, 24];

  function sections(): Section[] {
    if (effect === "tone") return toneSections(params, sampleRate);
    const mains = choice(params, "mains");
    return humSections(params, mains === "find" ? 50 : Number(mains), sampleRate);
  }

  const path = $derived.by(() => {
    const all = sections();
    const points = Array.from({ length: 400 }, (_, i): [number, number] => {
      const hertz = 20 * 1000 ** (i / 399);
      const db = responseDb(all, (2 * Math.PI * Math.min(hertz, sampleRate * 0.4999)) / sampleRate);
      return [x(hertz), y(Math.max(-RANGE, Math.min(RANGE, db)))];
    });
    return line()(points) ?? "";
  });
</script>

<svg
  width={WIDTH}
  height={HEIGHT}
  role="img"
  aria-label={effect === "tone"
    ? "Frequency response of bass and treble"
    : "Frequency response: the cut lines"}
>
  {#each marks as hertz (hertz)}
    <line x1={x(hertz)} x2={x(hertz)} y1="6" y2={HEIGHT - 16} />
    <text x={x(hertz)} y={HEIGHT - 4} text-anchor="middle">{hertz >= 1000 ? `${hertz / 1000}k` : hertz}</text>
  {/each}
  {#each levels as db (db)}
    <line x1="28" x2={WIDTH - 6} y1={y(db)} y2={y(db)} />
    <text x="24" y={y(db) + 3} text-anchor="end">{db}</text>
  {/each}
  <path d={path} />
</svg>

<style>
  svg {
    flex: none;
    border: 1px solid var(--w-rule);
    background: var(--w-paper);
  }

  line {
    stroke: var(--w-rule);
  }

  path {
    fill: none;
    stroke: var(--w-madder);
    stroke-width: 2;
  }

  text {
    fill: var(--w-soft);
    font-family: var(--w-mono);
    font-size: 9px;
  }
</style>
