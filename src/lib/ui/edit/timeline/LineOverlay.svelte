<!-- A line of gain or pan over the waveform: double click adds a point, points are pulled or moved by keys, the way between them is bent with Alt. -->
<script lang="ts">
  import { curveOf } from "$lib/core/audio/envelope";
  import type { GainLine } from "$lib/core/session/schema";
  import { placeText } from "$lib/core/units/timeFormat";
  import { useEditor } from "../../state/editor.svelte";
  import {
    heightOf,
    limitsOf,
    lineOf,
    lineOrigin,
    restingValue,
    setLine,
    valueAt,
    valueText,
    withBend,
    withMoved,
    withoutPoint,
    withPoint,
    type LineOwner
  } from "../../state/gainLines";

  interface Props {
    owner: LineOwner;
    /** Where it lies on the lanes: pixels from the top, and its height; the stretch of the timeline in frames. */
    top: number;
    height: number;
    from: number;
    to: number;
  }

  let { owner, top, height, from, to }: Props = $props();
  const editor = useEditor();
  const { session, view, pull, preferences, sampleRate } = editor;
  /** Points are as wide as this for the pointer. */
  const GRIP = 11;
  /** Pixels of the way from no bend to the most. */
  const BEND_WAY = 60;

  const line = $derived(lineOf(owner));
  const origin = $derived(lineOrigin(owner));
  const name = $derived(owner.kind === "clip" ? owner.clip.name : owner.track.name);
  const what = $derived(owner.kind === "pan" ? "Pan" : "Gain");
  const x0 = $derived(Math.max(-20, view.x(from)));
  const x1 = $derived(Math.min(view.width + 20, view.x(to)));
  const y = (value: number) => 1 + (1 - heightOf(owner, value)) * (height - 2);

  function valueAtX(x: number): number {
    if (!line) return restingValue(owner);
    return curveOf(line).at(view.left + x * view.framesPerPixel + origin);
  }

  const path = $derived.by(() => {
    const parts: string[] = [];
    for (let x = x0; ; x += 2) {
      const at = Math.min(x, x1);
      parts.push(`${at.toFixed(1)} ${y(valueAtX(at)).toFixed(1)}`);
      if (x >= x1) break;
    }
    return `M${parts.join("L")}`;
  });

  const points = $derived(
    (line?.points ?? []).flatMap((point, index) => {
      const frame = point.at - origin;
      return frame >= from && frame <= to && view.x(frame) > -GRIP && view.x(frame) < view.width + GRIP
        ? [{ ...point, index, x: view.x(frame), y: y(point.value) }]
        : [];
    })
  );

  const spare = (value: GainLine | null) => session.draft(setLine(owner, value));
  const make = (value: GainLine | null) => session.run(setLine(owner, value));

  type Drag = { readonly id: number; readonly owner: LineOwner; readonly line: GainLine } & (
    | { readonly kind: "point"; readonly index: number }
    | { readonly kind: "bend"; readonly index: number; readonly y: number; readonly bend: number }
  );
  let drag: Drag | undefined;
  let result: GainLine | null = null;

  function placeOf(event: PointerEvent | MouseEvent, element: Element): { x: number; y: number } {
    const box = (element.closest("svg") ?? element).getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  }

  function down(event: PointerEvent & { currentTarget: SVGElement }, index: number): void {
    if (event.button !== 0 || !line) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    result = line;
    drag = { kind: "point", id: event.pointerId, owner, line, index };
  }

  function downOnLine(event: PointerEvent & { currentTarget: SVGElement }): void {
    if (event.button !== 0 || !line || !event.altKey) return;
    const at = view.left + placeOf(event, event.currentTarget).x * view.framesPerPixel + origin;
    const index = line.points.findLastIndex((point) => point.at <= at);
    if (index < 0 || index === line.points.length - 1) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    result = line;
    const bend = line.points[index]?.bend ?? 0;
    drag = { kind: "bend", id: event.pointerId, owner, line, index, y: event.clientY, bend };
  }

  function move(event: PointerEvent & { currentTarget: SVGElement }): void {
    if (drag?.id !== event.pointerId) return;
    const place = placeOf(event, event.currentTarget);
    let text: string;
    if (drag.kind === "bend") {
      const rising =
        (drag.line.points[drag.index + 1]?.value ?? 0) >= (drag.line.points[drag.index]?.value ?? 0);
      const raised = ((drag.y - event.clientY) / BEND_WAY) * 10 * (rising ? 1 : -1);
      result = withBend(drag.line, drag.index, drag.bend + raised);
      text = `bend ${(result.points[drag.index]?.bend ?? 0).toFixed(1)}`;
    } else if (place.y < -30 || place.y > height + 30) {
      result = withoutPoint(drag.line, drag.index);
      text = "let go: the point goes";
    } else {
      const at = view.left + place.x * view.framesPerPixel + origin;
      result = withMoved(
        drag.owner,
        drag.line,
        drag.index,
        at,
        valueAt(drag.owner, 1 - (place.y - 1) / (height - 2))
      );
      const point = result.points[drag.index];
      text = point
        ? `${placeText(point.at - origin, sampleRate, preferences.time)} ${valueText(owner, point.value)}`
        : "";
    }
    spare(result);
    pull.note = { x: place.x, y: top + place.y, text };
  }

  function end(keep: boolean): void {
    if (!drag) return;
    drag = undefined;
    pull.over();
    if (keep) make(result);
    else session.draft(null);
  }

  function add(event: MouseEvent & { currentTarget: SVGElement }): void {
    event.stopPropagation();
    const place = placeOf(event, event.currentTarget);
    make(withPoint(owner, view.left + place.x * view.framesPerPixel + origin));
  }

  function key(event: KeyboardEvent, index: number): void {
    if (!line) return;
    if (event.key === "Delete" || event.key === "Backspace") {
      event.preventDefault();
      event.stopPropagation();
      make(withoutPoint(line, index));
      return;
    }
    const point = line.points[index];
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!way || !point) return;
    event.preventDefault();
    event.stopPropagation();
    const frames = (event.shiftKey ? 1 : 10) * Math.max(1, view.framesPerPixel) * (way[0] ?? 0);
    const step = (owner.kind === "pan" ? 0.1 : 1) * (event.shiftKey ? 0.1 : 1) * (way[1] ?? 0);
    make(withMoved(owner, line, index, point.at + frames, point.value + step));
  }
</script>

<svg
  class="line"
  width={view.width}
  {height}
  style:top="{top}px"
  role="group"
  aria-label="{what} line of {name}"
>
  <path class="under" d={path} />
  <path class="shown" d={path} />
  <!-- Keyboard: an action adds a point at the playhead; points move by arrow keys. -->
  <!-- svelte-ignore a11y_no_static_element_interactions, a11y_click_events_have_key_events -->
  <path
    class="hit"
    data-pulled-itself
    d={path}
    ondblclick={add}
    onpointerdown={downOnLine}
    onpointermove={move}
    onpointerup={() => end(true)}
    onlostpointercapture={() => end(false)}
    onclick={(event) => event.stopPropagation()}
  >
    <title>{what} of {name}: double click adds a point; Alt and a pull bend it</title>
  </path>
  {#each points as point (point.index)}
    <circle
      class="point"
      data-pulled-itself
      cx={point.x}
      cy={point.y}
      r="5"
      role="slider"
      tabindex="0"
      aria-label="{what} point at {placeText(point.at - origin, sampleRate, preferences.time)}"
      aria-valuemin={limitsOf(owner).least}
      aria-valuemax={limitsOf(owner).most}
      aria-valuenow={point.value}
      aria-valuetext={valueText(owner, point.value)}
      onpointerdown={(event) => down(event, point.index)}
      onpointermove={move}
      onpointerup={() => end(true)}
      onlostpointercapture={() => end(false)}
      onclick={(event) => event.stopPropagation()}
      ondblclick={(event) => event.stopPropagation()}
      onkeydown={(event) => key(event, point.index)}
    />
  {/each}
</svg>

<svelte:window
  onkeydowncapture={(event) => {
    if (event.key !== "Escape" || !drag) return;
    event.preventDefault();
    event.stopPropagation();
    end(false);
  }}
/>

<style>
  .line {
    position: absolute;
    left: 0;
    overflow: visible;
    pointer-events: none;
  }

  path {
    fill: none;
  }

  .under {
    stroke: var(--w-panel);
    stroke-width: 4;
    opacity: 0.7;
  }

  .shown {
    stroke: var(--w-ink);
    stroke-width: 1.5;
  }

  .hit {
    stroke: transparent;
    stroke-width: 10;
    cursor: copy;
    pointer-events: stroke;
  }

  .point {
    fill: var(--w-panel);
    stroke: var(--w-ink);
    stroke-width: 1.5;
    cursor: move;
    pointer-events: all;
  }

  .point:focus-visible {
    outline: none;
    fill: var(--w-ochre);
    stroke-width: 3;
  }
</style>
