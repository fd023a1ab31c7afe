<!-- The whole programme in one narrow strip, with the part that is in sight: drag it, or use the arrow keys. -->
<script lang="ts">
  import { untrack } from "svelte";
  import { resolveClip } from "$lib/core/session/lookup";
  import { insideOf, partOf } from "$lib/core/render/soundPart";
  import type { Track } from "$lib/core/session/schema";
  import { dbToGain } from "$lib/core/units/decibels";
  import { formatTime } from "$lib/core/units/time";
  import type { StripClip } from "$lib/waveform/strip";
  import Playhead from "../../shared/Playhead.svelte";
  import { draggable } from "../../shared/draggable";
  import { useEditor } from "../../state/editor.svelte";
  import { sized } from "../../shared/sizedCanvas";
  import { currentPalette } from "../../shared/palette";

  let { tracks }: { tracks: readonly Track[] } = $props();
  const { session, view, clips, tiles, transport, sampleRate } = useEditor();

  const HEIGHT = 24;
  /** Changes are drawn when they pause. */
  const WAIT_MS = 250;
  const LEAST_SECONDS = 10;

  let canvas: HTMLCanvasElement | undefined = $state();
  let width = $state(300);
  let peaks = $state.raw<Float32Array>(new Float32Array());

  const end = $derived(tracks.reduce((last, track) => Math.max(last, clips.end(track.id)), 0));
  const whole = $derived(Math.max(end * 1.02, LEAST_SECONDS * sampleRate, view.left + view.frames));
  const left = $derived((view.left / whole) * width);
  const wide = $derived(Math.max(6, (view.frames / whole) * width));

  function audible(): StripClip[] {
    const doc = session.shown;
    const solo = tracks.some((track) => track.solo);
    return tracks
      .filter((track) => !track.muted && (track.solo || !solo))
      .flatMap((track) =>
        clips.overlapping(track.id, 0, end).flatMap((bare) => {
          const clip = resolveClip(doc, bare);
          const part = partOf(clip);
          const { recordingId } = part;
          const offset = part.offset + insideOf(part).from;
          const recording = doc.get("recordings", recordingId);
          if (clip.muted || !recording) return [];
          const gain = dbToGain(clip.gainDb + track.gainDb);
          const { start, length } = clip;
          return [{ recordingId, frames: recording.frames, offset, start, length, gain }];
        })
      );
  }

  $effect(() => {
    void session.shown;
    const columns = Math.max(1, Math.round(width * (window.devicePixelRatio || 1)));
    const framesPerColumn = whole / columns;
    const timer = setTimeout(
      () =>
        untrack(() => {
          tiles.strip({ clips: audible(), width: columns, framesPerColumn }, (found) => (peaks = found));
        }),
      WAIT_MS
    );
    return () => clearTimeout(timer);
  });

  /** The programme's picture, without the part in sight. */
  const picture = $derived.by(() => {
    const drawn = document.createElement("canvas");
    drawn.width = Math.max(1, peaks.length);
    drawn.height = Math.round(HEIGHT * (window.devicePixelRatio || 1));
    const context = drawn.getContext("2d");
    const middle = drawn.height / 2;
    if (!context) return drawn;
    context.fillStyle = currentPalette().slate;
    context.globalAlpha = 0.6;
    peaks.forEach((peak, x) => {
      const h = Math.max(0.5, peak * (middle - 2));
      context.fillRect(x, middle - h, 1, 2 * h);
    });
    return drawn;
  });

  // Painted as a whole: an element for the part in sight would be moved with every frame of scrolling.
  $effect(() => {
    if (!canvas) return;
    const ratio = window.devicePixelRatio || 1;
    const context = sized(canvas, width, HEIGHT, ratio);
    const palette = currentPalette();
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.fillStyle = palette.sunk;
    context.fillRect(0, 0, width, HEIGHT);
    context.drawImage(picture, 0, 0, width, HEIGHT);
    context.fillStyle = palette.select;
    context.fillRect(left, 0, wide, HEIGHT);
    context.strokeStyle = palette.ink;
    context.lineWidth = 1.5;
    context.strokeRect(left + 0.75, 0.75, wide - 1.5, HEIGHT - 2);
  });

  let bar: HTMLElement | undefined = $state();
  let grabbed = 0;

  /** Takes hold of the part in sight, or brings it under the pointer first. */
  function press(event: PointerEvent): void {
    const x = event.clientX - (bar?.getBoundingClientRect().left ?? 0);
    if (x < left || x > left + wide) go((x - wide / 2) / width);
    grabbed = view.left;
  }

  function go(share: number): void {
    view.left = Math.max(0, Math.min(whole - view.frames, share * whole));
  }

  function onkeydown(event: KeyboardEvent): void {
    const step = event.shiftKey ? 0.01 : 0.1;
    const to = {
      ArrowLeft: view.left - step * view.frames,
      ArrowRight: view.left + step * view.frames,
      PageUp: view.left - view.frames,
      PageDown: view.left + view.frames,
      Home: 0,
      End: end - view.frames
    }[event.key];
    if (to === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    go(to / whole);
  }
</script>

<span class="label soft number">{formatTime(end / sampleRate, 0)}</span>
<div
  class="strip"
  bind:this={bar}
  bind:clientWidth={width}
  role="scrollbar"
  tabindex="0"
  aria-label="Part of the programme in sight"
  aria-controls="lanes"
  aria-orientation="horizontal"
  aria-valuemin={0}
  aria-valuemax={Math.round(whole / sampleRate)}
  aria-valuenow={Math.round(view.left / sampleRate)}
  aria-valuetext="{formatTime(view.left / sampleRate, 1)} to {formatTime(
    (view.left + view.frames) / sampleRate,
    1
  )}"
  title="The whole programme: drag the part in sight"
  onpointerdown={press}
  {onkeydown}
  use:draggable={{
    onstart: () => undefined,
    onmove: (dx) => go(grabbed / whole + dx / width),
    onend: () => undefined
  }}
>
  <canvas bind:this={canvas} aria-hidden="true"></canvas>
  <Playhead x={(transport.position / whole) * width} {width} />
</div>

<style>
  .label {
    display: flex;
    align-items: center;
    padding: 0 8px;
    border-top: 1px solid var(--w-rule);
    border-right: 1px solid var(--w-rule);
    font-size: 12px;
    white-space: nowrap;
  }

  .strip {
    position: relative;
    min-width: 0;
    overflow: hidden;
    border-top: 1px solid var(--w-rule);
    cursor: grab;
    touch-action: none;
  }

  canvas {
    display: block;
    width: 100%;
    height: 24px;
  }
</style>
