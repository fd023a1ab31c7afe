<!-- Loudness over time: momentary, short-term and integrated, with the band of the target. Curves on a canvas, axes as SVG. -->
<script lang="ts">
  import { area, line, scaleLinear } from "d3";
  import type { CurveJson } from "$lib/core/measure/json";
  import { formatTime } from "$lib/core/units/time";
  import Playhead from "../../shared/Playhead.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import { currentPalette } from "../../shared/palette";
  import type { Target } from "./targets";

  interface Props {
    curve: CurveJson | null;
    /** Share of the stretch that the curve covers so far. */
    share: number;
    /** Stretch of the timeline, frames. */
    from: number;
    to: number;
    target: Target;
  }

  let { curve, share, from, to, target }: Props = $props();
  const editor = useEditor();
  const { transport, sampleRate } = editor;

  const HEIGHT = 136;
  const MARGIN = { top: 6, bottom: 18, left: 36 };
  const LEVELS = { least: -50, most: -5, step: 9 };

  /** Seconds that an empty programme's axis shows. */
  const EMPTY_SECONDS = 60;

  /** Pixels that a time takes. */
  const LABEL = 44;

  let width = $state(600);
  let canvas: HTMLCanvasElement | undefined = $state();
  const x = $derived(
    scaleLinear()
      .domain([from / sampleRate, (to > from ? to : from + EMPTY_SECONDS * sampleRate) / sampleRate])
      .range([0, width - MARGIN.left])
  );
  const y = scaleLinear()
    .domain([LEVELS.least, LEVELS.most])
    .range([HEIGHT - MARGIN.bottom, MARGIN.top])
    .clamp(true);
  const levels = [-5, -14, -23, -32, -41, -50];
  const times = $derived(x.ticks(Math.max(2, Math.floor(width / 130))));

  /** A time at an end of the axis stands inside it. */
  function anchorAt(at: number): "start" | "middle" | "end" {
    if (at < LABEL / 2) return "start";
    return at > width - MARGIN.left - LABEL / 2 ? "end" : "middle";
  }

  /** Least and largest of columns that fall into the same pixel are drawn as an area; thinner where nothing varies. */
  $effect(() => {
    const context = canvas?.getContext("2d");
    if (!canvas || !context) return;
    const ratio = window.devicePixelRatio || 1;
    const wide = width - MARGIN.left;
    canvas.width = Math.round(wide * ratio);
    canvas.height = Math.round(HEIGHT * ratio);
    context.scale(ratio, ratio);
    const palette = currentPalette();
    if (!curve) return;
    const columns = curve.integrated.length;
    const at = (_: unknown, i: number) => ((i + 0.5) / columns) * wide * share;
    const level = (value: number | null) => y(value ?? LEVELS.least);
    const heard = (value: number | null) => value !== null;
    context.globalAlpha = 0.35;
    context.fillStyle = context.strokeStyle = palette.slate;
    context.lineWidth = 1;
    context.beginPath();
    area<number | null>(at, level, (_, i) => level(curve.momentaryLow[i] ?? null))
      .defined(heard)
      .context(context)(curve.momentaryHigh);
    context.fill();
    context.stroke();
    context.globalAlpha = 1;
    context.lineWidth = 2;
    context.beginPath();
    line<number | null>(at, level).defined(heard).context(context)(curve.shortTermHigh);
    context.stroke();
    context.strokeStyle = palette.madder;
    context.setLineDash([6, 3]);
    context.beginPath();
    line<number | null>(at, level).defined(heard).context(context)(curve.integrated);
    context.stroke();
  });

  const playX = $derived(x(transport.position / sampleRate));
</script>

<div class="chart">
  <ul class="key" aria-hidden="true">
    <li class="momentary">momentary</li>
    <li class="short">short-term</li>
    <li class="integrated">integrated</li>
  </ul>
  <!-- Keyboard: the position's field does what a click here does. -->
  <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
  <div
    class="picture"
    bind:clientWidth={width}
    title="Click to go there"
    onclick={(event) => {
      const left = event.currentTarget.getBoundingClientRect().left + MARGIN.left;
      editor.goTo(Math.max(0, Math.round(x.invert(event.clientX - left) * sampleRate)));
    }}
  >
    <svg
      {width}
      height={HEIGHT}
      role="img"
      aria-label="Loudness over time in LUFS, with the band of {target.name}"
    >
      <rect
        class="band"
        x={MARGIN.left}
        width={width - MARGIN.left}
        y={y(target.lufs + target.tolerance)}
        height={Math.max(2, y(target.lufs - target.tolerance) - y(target.lufs + target.tolerance))}
      />
      {#each levels as level (level)}
        <line x1={MARGIN.left} x2={width} y1={y(level)} y2={y(level)} />
        <text x={MARGIN.left - 6} y={y(level) + 4} text-anchor="end">{level}</text>
      {/each}
      {#each times as time (time)}
        <text x={MARGIN.left + x(time)} y={HEIGHT - 4} text-anchor={anchorAt(x(time))}
          >{formatTime(time, 0)}</text
        >
      {/each}
    </svg>
    <canvas
      bind:this={canvas}
      style:left="{MARGIN.left}px"
      style:width="{width - MARGIN.left}px"
      aria-hidden="true"
    ></canvas>
    <div class="curves" style:left="{MARGIN.left}px">
      <Playhead x={playX} width={width - MARGIN.left} />
    </div>
  </div>
</div>

<style>
  .chart {
    display: grid;
    grid-template-columns: 84px minmax(0, 1fr);
    padding: 2px 10px 0 12px;
    border-bottom: 1px solid var(--w-rule);
  }

  .key {
    margin: 4px 0 0;
    padding: 0;
    font-size: 12px;
    line-height: 20px;
    list-style: none;
  }

  .momentary {
    color: var(--w-soft);
  }

  .short {
    color: var(--w-slate);
    font-weight: 600;
  }

  .integrated {
    color: var(--w-madder);
    font-weight: 600;
    text-decoration: underline dashed;
    text-underline-offset: 3px;
  }

  .picture {
    position: relative;
    min-width: 0;
    overflow: hidden;
    cursor: text;
  }

  svg {
    display: block;
  }

  svg line {
    stroke: var(--w-rule);
  }

  svg text {
    fill: var(--w-soft);
    font-family: var(--w-mono);
    font-size: 12px;
  }

  .band {
    fill: var(--w-select);
    stroke: var(--w-ochre);
    stroke-width: 0.5;
  }

  canvas {
    position: absolute;
    top: 0;
    height: 136px;
  }

  .curves {
    position: absolute;
    top: 0;
    right: 0;
    bottom: 18px;
    pointer-events: none;
  }
</style>
