<!-- A fade's curve, large: a click adds a point to one that is drawn, points are pulled or moved by keys; any curve is bent by pulling it. -->
<script lang="ts">
  import { fadeGain } from "$lib/core/audio/fades";
  import { dbToGain, formatDb, gainToDb } from "$lib/core/units/decibels";
  import type { FadeShape } from "$lib/core/session/schema";
  import { withFadeBend, withFadePoint, withFadePointAt, withoutFadePoint } from "../../state/fadeShapes";

  interface Props {
    shape: FadeShape;
    /** A fade in rises to the right, a fade out falls. */
    edge: "in" | "out";
    /** How a share of the length is written. */
    timeAt: (share: number) => string;
    /** Shows a shape while it is pulled; null: as it was. */
    spare: (shape: FadeShape | null) => void;
    make: (shape: FadeShape) => void;
  }

  let { shape, edge, timeAt, spare, make }: Props = $props();
  const WIDTH = 360;
  const HEIGHT = 128;
  /** Pixels of the way from no bend to the most. */
  const BEND_WAY = 60;
  const CLICK_PIXELS = 3;

  const toX = (share: number) => (edge === "in" ? share : 1 - share) * WIDTH;
  const toY = (gain: number) => (1 - gain) * HEIGHT;
  const shareAt = (x: number) => (edge === "in" ? x / WIDTH : 1 - x / WIDTH);

  const path = $derived(
    `M${Array.from({ length: 105 }, (_, i) => `${toX(i / 104).toFixed(1)} ${toY(fadeGain(i / 104, shape)).toFixed(1)}`).join("L")}`
  );
  const drawn = $derived(shape.curve === "drawn");

  let box: SVGSVGElement | undefined = $state();
  let pulled: { id: number; index: number; from: FadeShape; x: number; y: number } | undefined;
  let result: FadeShape | undefined;

  function placeOf(event: PointerEvent): { x: number; y: number } {
    const rect = box?.getBoundingClientRect();
    return { x: event.clientX - (rect?.left ?? 0), y: event.clientY - (rect?.top ?? 0) };
  }

  function down(event: PointerEvent & { currentTarget: Element }, index: number): void {
    if (event.button !== 0) return;
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    pulled = { id: event.pointerId, index, from: shape, ...placeOf(event) };
    result = undefined;
  }

  function move(event: PointerEvent): void {
    if (pulled?.id !== event.pointerId) return;
    const { x, y } = placeOf(event);
    const { index, from } = pulled;
    if (!result && Math.hypot(x - pulled.x, y - pulled.y) <= CLICK_PIXELS) return;
    if (index < 0) result = withFadeBend(from, (from.bend ?? 0) + ((pulled.y - y) / BEND_WAY) * 10);
    else if (y < -24 || y > HEIGHT + 24) result = withoutFadePoint(from, index);
    else result = withFadePointAt(from, index, shareAt(x), 1 - y / HEIGHT);
    spare(result);
  }

  function up(event: PointerEvent): void {
    if (pulled?.id !== event.pointerId) return;
    const { index, from, x, y } = pulled;
    pulled = undefined;
    if (result) make(result);
    else if (index < 0 && drawn) make(withFadePoint(from, shareAt(x), 1 - y / HEIGHT));
  }

  function lost(): void {
    if (!pulled) return;
    pulled = undefined;
    spare(null);
  }

  function key(event: KeyboardEvent, index: number): void {
    const point = shape.points?.[index];
    if (!point) return;
    if (event.key === "Delete" || event.key === "Backspace") make(withoutFadePoint(shape, index));
    else {
      const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
      if (!way) return;
      const step = event.shiftKey ? 0.005 : 0.02;
      const along = (edge === "in" ? 1 : -1) * (way[0] ?? 0) * step;
      make(withFadePointAt(shape, index, point.at + along, point.gain + (way[1] ?? 0) * step));
    }
    event.preventDefault();
    event.stopPropagation();
  }

  /** Lines at these levels. */
  const LEVELS = [-3, -6, -12, -24];
</script>

<svg
  bind:this={box}
  width={WIDTH}
  height={HEIGHT}
  role="group"
  aria-label="Curve of the fade {edge}"
  onpointerdown={(event) => down(event, -1)}
  onpointermove={move}
  onpointerup={up}
  onlostpointercapture={lost}
>
  <rect width={WIDTH} height={HEIGHT} />
  {#each LEVELS as db (db)}
    <line x1="0" x2={WIDTH} y1={toY(dbToGain(db))} y2={toY(dbToGain(db))} />
    <text
      x={edge === "in" ? 4 : WIDTH - 4}
      y={toY(dbToGain(db)) - 2}
      text-anchor={edge === "in" ? "start" : "end"}>{db} dB</text
    >
  {/each}
  <path d={path} />
  {#each shape.points ?? [] as point, index (index)}
    <circle
      cx={toX(point.at)}
      cy={toY(fadeGain(point.at, { ...shape, bend: 0 }))}
      r="5.5"
      role="slider"
      tabindex="0"
      aria-label="Point {index + 1} at {timeAt(point.at)}"
      aria-valuemin={0}
      aria-valuemax={1}
      aria-valuenow={point.gain}
      aria-valuetext="{formatDb(gainToDb(point.gain))} dB"
      onpointerdown={(event) => down(event, index)}
      onkeydown={(event) => key(event, index)}
    />
  {/each}
</svg>

<style>
  svg {
    overflow: visible;
    touch-action: none;
    cursor: ns-resize;
  }

  rect {
    fill: var(--w-paper);
    stroke: var(--w-rule);
  }

  line {
    stroke: var(--w-rule);
  }

  text {
    fill: var(--w-soft);
    font-size: 12px;
  }

  path {
    fill: none;
    stroke: var(--w-madder);
    stroke-width: 2;
  }

  circle {
    fill: var(--w-panel);
    stroke: var(--w-ink);
    stroke-width: 1.5;
    cursor: move;
  }

  circle:focus-visible {
    outline: none;
    fill: var(--w-ochre);
    stroke-width: 3;
  }
</style>
