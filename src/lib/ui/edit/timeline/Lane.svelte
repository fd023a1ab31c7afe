<!-- A track's lane: one canvas that shows its clips. -->
<script lang="ts">
  import { untrack } from "svelte";
  import { resolveClip } from "$lib/core/session/lookup";
  import type { Clip, Track } from "$lib/core/session/schema";
  import { useEditor } from "../../state/editor.svelte";
  import { NO_EFFECT, type LaneEffect } from "../../state/pull.svelte";
  import { look } from "../../shared/look.svelte";
  import { NAME_REACH } from "./drawing/card";
  import type { LanePainter, LaneView } from "./drawing/lanePainter";
  import type { LaidOut } from "./laidOut.svelte";

  interface Props {
    track: Track;
    painter: LanePainter;
    laidOut: LaidOut;
    /** In sight, or nearly. */
    near: boolean;
  }

  let { track, painter, laidOut, near }: Props = $props();
  const { session, selection, view, clips, layout, pull, transport } = useEditor();
  let canvas: HTMLCanvasElement | undefined = $state();
  const height = $derived(layout.lane(track.id));

  /** By how much taller its waveforms are drawn. */
  const taller = $derived(view.height * layout.zoom(track.id));

  /** Its clips in a stretch of time, as a pull makes them. */
  function inSight(from: number, to: number): readonly Clip[] {
    const found = clips.overlapping(track.id, from, to);
    const { instead, clips: changed } = pull.effectOn(track.id);
    if (instead.size === 0) return found;
    const come = changed.filter((clip) => clip.start < to && clip.start + clip.length > from);
    return [...found.filter((clip) => !instead.has(clip.id)), ...come].sort((a, b) => a.start - b.start);
  }
  const pulledKey = $derived(pull.effectOn(track.id).key);

  /** What is painted, read when it is painted: not by whoever may be listening. */
  function describe(): LaneView {
    return untrack(() => {
      const doc = session.shown;
      const { left, framesPerPixel, width, frames } = view;
      return {
        doc,
        left,
        framesPerPixel,
        width,
        height,
        taller,
        moving: laidOut.moving,
        selected: selection.ids,
        chosenStep: selection.stepId,
        broken: session.broken,
        computing: transport.computing,
        clips: inSight(left, left + frames).map((clip) => resolveClip(doc, clip)),
        pulled: pull.ids,
        silent: track.muted
      };
    });
  }

  const { id } = untrack(() => track);
  $effect(() => (canvas && near ? painter.attach(id, canvas, describe) : undefined));

  $effect(() => {
    void view.left;
    painter.scrolled(id);
  });
  /** Of what a pull does to others only where it does it is painted: with every move of the pointer. */
  let pulledOver: LaneEffect = NO_EFFECT;
  $effect(() => {
    void pulledKey;
    untrack(() => {
      const now = pull.effectOn(id);
      const before = [...pulledOver.instead, ...now.instead].flatMap(
        (clip) => session.shown.get("clips", clip) ?? []
      );
      for (const { start, length } of [...before, ...pulledOver.clips, ...now.clips])
        painter.arrived(id, { from: start, to: start + length + NAME_REACH * view.framesPerPixel });
      pulledOver = now;
    });
  });
  // Whatever else the picture depends on marks the lane, and this lane alone where it is its own.
  $effect(() => {
    void [view.framesPerPixel, view.width, taller, height, track.muted];
    void [laidOut.moving, selection.ids, selection.stepId, session.broken, pull.ids, look.dark];
    void transport.computing;
    clips.watch(id);
    painter.mark(id);
  });
</script>

{#if taller > 1}
  <span class="taller number" title="The track's waveforms are drawn taller than the sound is"
    >×{Math.round(taller)}</span
  >
{/if}
<canvas bind:this={canvas} aria-hidden="true" style:width="{view.width}px" style:height="{height}px"></canvas>

<style>
  canvas {
    display: block;
  }

  .taller {
    position: absolute;
    z-index: 1;
    bottom: 3px;
    left: 2px;
    padding: 0 3px;
    background: var(--w-ink);
    color: var(--w-paper);
    font-size: 12px;
    line-height: 15px;
    pointer-events: none;
  }
</style>
