<!-- What comes to a step and what leaves it over time, and by how much it changes the level: of dynamics, of repairs. -->
<script lang="ts">
  import { line, scaleLinear } from "d3";
  import { dbToGain, formatDb, gainToDb } from "$lib/core/units/decibels";
  import { useEditor } from "../../state/editor.svelte";
  import { COUNT_FONT } from "../../shared/canvasFonts";
  import LiveLayer from "../../shared/LiveLayer.svelte";
  import { currentPalette, type Palette } from "../../shared/palette";
  import type { PanelProps } from "./pictures";
  import { playedShare } from "./subjectTime";
  import { drawPeaks, strokePeaks } from "./wavePicture";

  let { stepId, params, effect: effectId, height }: PanelProps = $props();
  const editor = useEditor();
  const { analysis } = editor;
  /** Quieter sound has no change of level to speak of. */
  const LEAST = 1e-4;
  /** Effects that touch places and leave the rest as it is. */
  const REPAIRS = new Set(["click-repair", "plosive-removal", "declip"]);
  let width = $state(260);
  let canvas: HTMLCanvasElement | undefined = $state();

  const waveHeight = $derived(Math.round((height - 4) * 0.55));
  const trace = $derived(analysis.traceOf(stepId));
  const full = $derived(trace ? Math.max(1e-5, ...trace.inPeaks, ...trace.outPeaks) : 1);
  /** Change of level in dB by column; NaN where nothing sounds. */
  const change = $derived(
    trace ? Array.from(trace.inPeaks, (x, i) => (x < LEAST ? NaN : gainToDb(trace.outPeaks[i] / x))) : []
  );
  const heard = $derived(change.filter((db) => Number.isFinite(db)));
  const least = $derived(heard.length > 0 ? Math.min(...heard) : 0);
  const most = $derived(heard.length > 0 ? Math.max(...heard) : 0);
  // Make-up gain lifts all of it: the axis goes with the loudest.
  const top = $derived(Math.max(0, Math.ceil(most)));
  const y = $derived(
    scaleLinear([Math.min(-20, Math.floor(least)), top], [height - 6, waveHeight + 8]).clamp(true)
  );
  const path = $derived(
    line<number>()
      .defined((db) => Number.isFinite(db))
      .x((_, i) => 34 + (i / Math.max(1, change.length - 1)) * (width - 34))
      .y((db) => y(db))(change) ?? ""
  );
  /** The level that decides: a threshold, or a ceiling. */
  const mark = $derived.by(() => {
    const db = effectId === "limiter" ? params.ceilingDb : params.thresholdDb;
    const gain = typeof db === "number" ? dbToGain(db) : NaN;
    return gain <= full ? gain / full : undefined;
  });
  /** Places that a repair has touched; none where it touches all. */
  const touched = $derived.by(() => {
    const columns = trace?.changed ?? [];
    if (!REPAIRS.has(effectId) || columns.length > 0.5 * (trace?.inPeaks.length ?? 0)) return [];
    return columns.filter((column, i) => columns[i - 1] !== column - 1);
  });
  const share = $derived(playedShare(editor));
  const column = $derived(share === undefined ? undefined : Math.floor(share * change.length));
  const now = $derived(column === undefined ? undefined : change[column]);
  const level = $derived(now !== undefined && Number.isFinite(now));

  function live(context: CanvasRenderingContext2D, { ink, soft }: Palette): void {
    if (share === undefined) return;
    context.fillStyle = ink;
    context.fillRect(34 + share * (width - 34) - 0.75, 0, 1.5, height);
    if (now === undefined || !level) return;
    context.font = COUNT_FONT;
    context.fillStyle = soft;
    context.textAlign = "end";
    context.fillText(`${formatDb(now, 1, true)} dB`, width - 4, height - 8);
  }

  $effect(() => {
    const context = canvas?.getContext("2d");
    if (!canvas || !context) return;
    const ratio = window.devicePixelRatio || 1;
    canvas.width = Math.max(1, Math.round((width - 34) * ratio));
    canvas.height = Math.max(1, Math.round(waveHeight * ratio));
    const palette = currentPalette();
    context.fillStyle = palette.paper;
    context.fillRect(0, 0, canvas.width, canvas.height);
    if (!trace) return;
    const box = { top: 0, height: canvas.height, from: 0, to: 1, full };
    context.fillStyle = palette.madder;
    drawPeaks(context, trace.outPeaks, box);
    context.strokeStyle = palette.ink;
    context.lineWidth = ratio;
    strokePeaks(context, trace.inPeaks, box);
    if (mark === undefined) return;
    context.strokeStyle = palette.soft;
    context.setLineDash([4 * ratio, 3 * ratio]);
    context.beginPath();
    for (const side of [1, -1]) {
      const at = canvas.height / 2 - side * mark * (canvas.height / 2 - 2);
      context.moveTo(0, at);
      context.lineTo(canvas.width, at);
    }
    context.stroke();
  });
</script>

<figure
  bind:clientWidth={width}
  role="img"
  aria-label={trace
    ? `Sound before the step as a line, after it filled; change of level from ${formatDb(least, 1, true)} to ${formatDb(most, 1, true)} dB`
    : "Not heard yet"}
>
  <canvas bind:this={canvas} style:height="{waveHeight}px"></canvas>
  <svg {width} {height}>
    {#each y.ticks(4) as db (db)}
      <line x1="34" x2={width} y1={y(db)} y2={y(db)} />
      <text x="30" y={y(db) + 4} text-anchor="end">{db > 0 ? "+" : ""}{db}</text>
    {/each}
    <path d={path} />
    {#each touched as column (column)}
      {@const at = 34 + (column / change.length) * (width - 34)}
      <path class="touched" d="M{at - 3} 0H{at + 3}L{at} 6Z" />
    {/each}
    {#if !level}
      <text x={width - 4} y={height - 8} text-anchor="end"
        >{REPAIRS.has(effectId) && trace
          ? `${touched.length} place${touched.length === 1 ? "" : "s"} mended`
          : trace
            ? `${formatDb(least, 1, true)} to ${formatDb(most, 1, true)} dB`
            : "listening…"}</text
      >
    {/if}
  </svg>
  <LiveLayer {width} {height} paint={live} />
</figure>

<style>
  figure {
    position: relative;
    flex: 1;
    min-width: 200px;
    margin: 0;
    border: 1px solid var(--w-rule);
    background: var(--w-paper);
  }

  canvas {
    position: absolute;
    top: 0;
    left: 34px;
    width: calc(100% - 34px);
  }

  svg {
    position: relative;
    display: block;
  }

  line {
    stroke: var(--w-rule);
  }

  path {
    fill: none;
    stroke: var(--w-madder);
    stroke-width: 1.5;
  }

  .touched {
    fill: var(--w-ink);
    stroke: none;
  }

  text {
    fill: var(--w-soft);
    font-family: var(--w-mono);
    font-size: 12px;
  }
</style>
