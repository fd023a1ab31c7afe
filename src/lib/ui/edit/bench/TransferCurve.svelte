<!-- Level out over level in: the static curve of an effect of dynamics. -->
<script lang="ts">
  import { line, scaleLinear } from "d3";
  import { makeUp, staticGain } from "$lib/core/effects/compressor";
  import { expanderGain } from "$lib/core/effects/expander";
  import { num } from "$lib/core/effects/description";
  import { formatDb, gainToDb } from "$lib/core/units/decibels";
  import type { Palette } from "../../shared/palette";
  import { useEditor } from "../../state/editor.svelte";
  import Graph from "./Graph.svelte";
  import type { PanelProps } from "./pictures";
  import { playedShare } from "./subjectTime";

  let { stepId, params, effect, height }: PanelProps = $props();
  const editor = useEditor();
  const { analysis } = editor;
  const WIDTH = 190;
  const FLOOR = -72;
  const x = scaleLinear([FLOOR, 0], [34, WIDTH - 8]);
  const y = $derived(scaleLinear([FLOOR, 0], [height - 18, 8]));
  const GRID = [-60, -40, -20, 0];

  function out(level: number): number {
    if (effect === "expander") return level + expanderGain(level, params);
    if (effect === "gate") return level + (level < num(params, "thresholdDb") ? -num(params, "rangeDb") : 0);
    if (effect === "limiter") return Math.min(num(params, "ceilingDb"), level + num(params, "gainDb"));
    const wet = num(params, "mixPercent") / 100;
    const gain = 10 ** ((staticGain(level, params) + makeUp(params)) / 20);
    return level + 20 * Math.log10(1 + wet * (gain - 1));
  }

  /** What comes and what leaves at the playhead, in dB. */
  const now = $derived.by(() => {
    const trace = analysis.traceOf(stepId);
    const share = playedShare(editor);
    if (!trace || share === undefined) return undefined;
    const column = Math.floor(share * trace.inPeaks.length);
    const [into, outOf] = [gainToDb(trace.inPeaks[column]), gainToDb(trace.outPeaks[column])];
    return into > FLOOR ? { x: x(Math.min(0, into)), y: y(Math.max(FLOOR, Math.min(0, outOf))) } : undefined;
  });

  const path = $derived.by(() => {
    const points = Array.from({ length: 145 }, (_, i): [number, number] => {
      const level = FLOOR + i / 2;
      return [x(level), y(Math.max(FLOOR, Math.min(0, out(level))))];
    });
    return line()(points) ?? "";
  });
  function point(context: CanvasRenderingContext2D, { ochre, ink }: Palette): void {
    if (!now) return;
    context.beginPath();
    context.arc(now.x, now.y, 4.5, 0, 2 * Math.PI);
    context.fillStyle = ochre;
    context.fill();
    context.strokeStyle = ink;
    context.stroke();
  }
  const summary = $derived(
    `-40 dB in gives ${formatDb(out(-40))} dB out, 0 dB in gives ${formatDb(out(0))} dB out`
  );
</script>

<Graph
  width={WIDTH}
  {height}
  label="Transfer curve: {summary}"
  sides={[34, WIDTH - 8]}
  ends={[y(0), y(FLOOR)]}
  across={GRID.map((level) => ({ at: x(level), text: String(level) }))}
  up={GRID.map((level) => ({ at: y(level), text: String(level) }))}
  over={point}
>
  <line class="same" x1={x(FLOOR)} y1={y(FLOOR)} x2={x(0)} y2={y(0)} />
  <path d={path} />
</Graph>

<style>
  .same {
    stroke: var(--w-slate);
    stroke-dasharray: 3 3;
  }

  path {
    fill: none;
    stroke: var(--w-madder);
    stroke-width: 2;
  }
</style>
