<!-- Gain over frequency of an effect that is a filter. -->
<script lang="ts">
  import { line, scaleLinear, scaleLog } from "d3";
  import { responseDb, type Section } from "$lib/core/audio/biquadDesign";
  import { humFundamental, humSections } from "$lib/core/effects/humRemoval";
  import { toneSections } from "$lib/core/effects/tone";
  import { useEditor } from "../../state/editor.svelte";
  import Graph from "./Graph.svelte";
  import { hertzText } from "./scales";
  import type { PanelProps } from "./pictures";

  let { params, effect, learnt, height }: PanelProps = $props();
  const { sampleRate } = useEditor();
  const WIDTH = 260;
  const RANGE = 26;
  const x = scaleLog([20, 20000], [34, WIDTH - 8]);
  const y = $derived(scaleLinear([-RANGE, RANGE], [height - 16, 6]));

  const fundamental = $derived(effect === "tone" ? 0 : humFundamental(params, learnt));
  const sections = $derived<Section[]>(
    effect === "tone" ? toneSections(params, sampleRate) : humSections(params, fundamental, sampleRate)
  );
  // The cut lines are narrower than a step of the grid: each has a point of its own.
  const lines = $derived(fundamental > 0 ? sections.map((_, h) => (h + 1) * fundamental) : []);

  const path = $derived.by(() => {
    const all = sections;
    const grid = Array.from({ length: 400 }, (_, i) => 20 * 1000 ** (i / 399));
    const points = [...grid, ...lines]
      .sort((a, b) => a - b)
      .map((hertz): [number, number] => {
        const db = responseDb(all, (2 * Math.PI * Math.min(hertz, sampleRate * 0.4999)) / sampleRate);
        return [x(hertz), y(Math.max(-RANGE, Math.min(RANGE, db)))];
      });
    return line()(points) ?? "";
  });
</script>

{#if effect === "tone" || params.method === "notches"}
  <Graph
    width={WIDTH}
    {height}
    label={effect === "tone"
      ? "Frequency response of bass and treble"
      : fundamental > 0
        ? `Frequency response: ${lines.length} lines cut from ${fundamental.toFixed(2)} Hz upwards`
        : "Frequency response: no lines cut"}
    sides={[34, WIDTH - 8]}
    ends={[6, height - 16]}
    across={[20, 100, 1000, 10000].map((hertz) => ({ at: x(hertz), text: hertzText(hertz) }))}
    up={[-24, -12, 0, 12, 24].map((db) => ({ at: y(db), text: String(db) }))}
  >
    <path d={path} />
  </Graph>
{/if}

<style>
  path {
    fill: none;
    stroke: var(--w-madder);
    stroke-width: 2;
  }
</style>
