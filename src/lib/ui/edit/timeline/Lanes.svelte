<!-- The lanes of all tracks: their pictures, their clips' elements, one listener for the pointer, and what lies over them. -->
<script lang="ts">
  import { onMount } from "svelte";
  import type { Track } from "$lib/core/session/schema";
  import { useEditor } from "../../state/editor.svelte";
  import { choiceOf } from "../../state/selection.svelte";
  import { dropFade, dropTreatment, pullsFade, pullsTreatment } from "../../state/pulledTreatment";
  import Playhead from "../../shared/Playhead.svelte";
  import { addClip } from "../../state/editing";
  import { movingOf } from "../../state/moving";
  import { LanePainter } from "./drawing/lanePainter";
  import { NAME_FONT } from "../../shared/canvasFonts";
  import { forgetWidths } from "./drawing/names";
  import { BendFade } from "./gestures/bendFade";
  import { ChooseTime } from "./gestures/chooseTime";
  import type { Gesture, LanePoint } from "./gestures/gesture";
  import { Marquee, type Rectangle } from "./gestures/marquee";
  import { MoveClips } from "./gestures/moveClips";
  import { MoveJoin } from "./gestures/moveJoin";
  import { lanePointer, pointOf } from "./gestures/pointer";
  import { ShapeClip } from "./gestures/shapeClip";
  import { SlipClips } from "./gestures/slipClips";
  import { spotAt } from "./gestures/spot";
  import Lane from "./Lane.svelte";
  import LaneElements from "./LaneElements.svelte";
  import type { LaidOut } from "./laidOut.svelte";
  import type { LaneStack } from "./layout";
  import Lines from "./Lines.svelte";
  import PulledClips from "./PulledClips.svelte";
  import PullNotes from "./PullNotes.svelte";

  interface Props {
    tracks: readonly Track[];
    stack: LaneStack;
    laidOut: LaidOut;
    /** Which of them are in sight, or nearly. */
    near: readonly boolean[];
    /** The part of the lanes that is in sight, in pixels from their top. */
    seen: { readonly top: number; readonly height: number };
  }

  let { tracks, stack, laidOut, near, seen }: Props = $props();
  const editor = useEditor();
  const { session, selection, view, clips, layout, transport, tiles, pull, preferences } = editor;

  let lanes: HTMLElement | undefined = $state();
  let shownOnce = false;
  let over = $state<string | null>(null);
  let marquee = $state.raw<Rectangle | null>(null);
  /** Tiles that have come for the picture of pulled clips. */
  let arrivals = $state(0);

  const painter = new LanePainter(tiles);

  onMount(() => {
    tiles.onarrival = (waiting) => {
      for (const [lane, missing] of waiting) painter.arrived(lane, missing);
      if (waiting.has("pulled")) arrivals++;
    };
    document.fonts
      .load(NAME_FONT)
      .catch(() => [])
      .finally(() => {
        forgetWidths();
        painter.markAll();
      });
    return () => painter.close();
  });

  $effect(() => {
    if (!lanes) return;
    const watch = new ResizeObserver(([entry]) => {
      view.width = Math.max(100, entry.contentRect.width);
      if (!shownOnce) {
        shownOnce = true;
        editor.showAll();
      }
    });
    watch.observe(lanes);
    return () => watch.disconnect();
  });

  /** What a press on the lanes begins when it becomes a drag. */
  function begin(at: LanePoint): Gesture {
    const { clip, zone, join } = spotAt(at, tracks, stack, clips, view);
    const time = preferences.pulls === "time" && !at.shift;
    if (!clip || !zone || (time && zone === "body"))
      return clip || !(at.shift || at.ctrl)
        ? new ChooseTime(editor, at, tracks, stack)
        : new Marquee(editor, at, tracks, stack, (rectangle) => (marquee = rectangle));
    if (join) return new MoveJoin(editor, at, join);
    if (!selection.has(clip.id)) selection.choose(clip.id, at.shift || at.ctrl ? "toggle" : "alone");
    const moving = movingOf(session.document, selection.clipIds);
    if (zone === "curveIn" || zone === "curveOut")
      return new BendFade(editor, at, clip, zone === "curveIn" ? "in" : "out", moving.clips);
    if (zone !== "body" && zone !== "cross") return new ShapeClip(editor, at, clip, zone, moving.clips);
    return at.ctrl ? new SlipClips(editor, at, moving.clips) : new MoveClips(editor, at, moving, clip, stack);
  }

  /** What the pointer went down on: the view may move before it is let go. */
  let pressed: string | undefined;

  /** Lanes on which the range lies. */
  const marked = $derived.by(() => {
    const on = new Set(selection.tracks);
    return tracks.flatMap((track, i) => (on.has(track.id) ? [i] : []));
  });

  function clipUnder(event: MouseEvent & { currentTarget: HTMLElement }): string | undefined {
    const focused = event.target instanceof HTMLElement ? event.target.dataset.clip : undefined;
    return focused ?? spotAt(pointOf(event.currentTarget, event), tracks, stack, clips, view).clip?.id;
  }

  function click(event: MouseEvent & { currentTarget: HTMLElement }): void {
    const at = pointOf(event.currentTarget, event);
    if (pressed !== undefined) {
      selection.choose(pressed, choiceOf(event));
      return;
    }
    transport.locate(view.frameAt(at.x));
    if (event.shiftKey) return;
    selection.range = null;
    selection.clear();
  }

  const CURSORS = {
    body: "grab",
    left: "ew-resize",
    right: "ew-resize",
    fadeIn: "ew-resize",
    fadeOut: "ew-resize",
    cross: "ew-resize",
    curveIn: "ns-resize",
    curveOut: "ns-resize"
  };

  function hover(event: PointerEvent & { currentTarget: HTMLElement }): void {
    if (event.buttons !== 0) return;
    const { zone } = spotAt(pointOf(event.currentTarget, event), tracks, stack, clips, view);
    const time = preferences.pulls === "time" && (zone === "body" || !zone);
    event.currentTarget.style.cursor = time ? "text" : zone ? CURSORS[zone] : "";
  }

  /** On a clip: what can be done with it, or with all that are selected when it is one of them. Beside clips: what can be done with the track. */
  function menu(event: MouseEvent & { currentTarget: HTMLElement }): void {
    const { lane } = spotAt(pointOf(event.currentTarget, event), tracks, stack, clips, view);
    const id = clipUnder(event);
    const track = tracks[lane];
    if (id !== undefined) {
      if (!selection.has(id)) selection.choose(id);
      editor.offer(event, "clip", selection.subject.name);
    } else if (track) editor.offer(event, "track", `Track ${track.name}`, { table: "tracks", id: track.id });
  }

  function laneUnder(event: MouseEvent & { currentTarget: HTMLElement }): Track | undefined {
    return tracks[stack.at(pointOf(event.currentTarget, event).y)];
  }

  function drop(event: DragEvent & { currentTarget: HTMLElement }): void {
    event.preventDefault();
    over = null;
    if (pullsTreatment(event) || pullsFade(event)) {
      const clipId = clipUnder(event);
      const clip = clipId === undefined ? undefined : session.document.get("clips", clipId);
      if (clipId === undefined || !clip) return;
      event.stopPropagation();
      // On one of several selected clips it is meant for all of them.
      if (!selection.has(clipId)) selection.choose(clipId);
      const at = view.frameAt(pointOf(event.currentTarget, event).x) - clip.start;
      if (pullsFade(event)) dropFade(editor, event, at < clip.length / 2 ? "in" : "out");
      else dropTreatment(editor, event);
      return;
    }
    const id = event.dataTransfer?.getData("application/x-wring-recording");
    const recording = id ? session.document.get("recordings", id) : undefined;
    if (recording) {
      event.stopPropagation();
      addClip(editor, recording, laneUnder(event)?.id, view.frameAt(pointOf(event.currentTarget, event).x));
    }
  }
</script>

<svelte:window
  onresize={() => {
    // The screen's density may be another.
    painter.markAll();
  }}
/>

<!-- Keyboard: clips take the focus themselves; the playhead has its field. -->
<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
<div
  class="lanes"
  id="lanes"
  bind:this={lanes}
  {@attach lanePointer(begin)}
  onpointerdowncapture={(event) => (pressed = clipUnder(event))}
  onclick={click}
  onpointermove={hover}
  oncontextmenu={menu}
  ondragover={(event) => {
    event.preventDefault();
    over = laneUnder(event)?.id ?? null;
  }}
  ondragleave={() => (over = null)}
  ondrop={drop}
>
  {#each tracks as track, i (track.id)}
    <div
      class="lane"
      class:over={over === track.id}
      data-lane={track.id}
      style:height="{layout.lane(track.id)}px"
    >
      <Lane {track} {painter} {laidOut} near={near[i] ?? false} />
    </div>
  {/each}
  <div class="elements">
    {#each tracks as track, i (track.id)}
      {#if near[i]}<LaneElements {track} top={stack.top(i)} {laidOut} />{/if}
    {/each}
  </div>
  <Lines {tracks} {stack} {near} />
  {#if session.shown.size("clips") === 0}
    <p class="empty">
      {#if tracks.length === 0}Add a track first.{:else}
        Nothing here yet. Drop sound files anywhere on this window, then pull a recording from the shelf to a
        track.
      {/if}
    </p>
  {/if}
  {#if pull.now}<PulledClips pulled={pull.now} {stack} {tiles} {near} {arrivals} />{/if}
  {#if marquee}
    <div
      class="marquee"
      style:left="{marquee.left}px"
      style:top="{marquee.top}px"
      style:width="{marquee.width}px"
      style:height="{marquee.height}px"
    ></div>
  {/if}
  {#if selection.range}
    {@const { from, to } = selection.range}
    {#each marked as i (i)}
      <div
        class="range"
        style:left="{view.x(from)}px"
        style:width="{(to - from) / view.framesPerPixel}px"
        style:top="{stack.top(i)}px"
        style:height="{stack.height(i)}px"
      ></div>
    {/each}
  {/if}
  <Playhead x={view.x(transport.position)} width={view.width} />
  <PullNotes {seen} />
</div>

<style>
  .lanes {
    position: relative;
    min-width: 0;
    min-height: 100%;
    /* Not hidden: that could be scrolled by the focus, away from what is painted. */
    overflow: clip;
    touch-action: none;
  }

  .lane {
    position: relative;
    background: var(--w-paper);
  }

  .lane.over::after {
    position: absolute;
    inset: 0;
    background: var(--w-select);
    content: "";
    pointer-events: none;
  }

  .elements {
    position: absolute;
    top: 0;
    left: 0;
    pointer-events: none;
  }

  .range {
    position: absolute;
    background: var(--w-select);
    border-inline: 1px solid var(--w-ochre);
    pointer-events: none;
  }

  .marquee {
    position: absolute;
    box-sizing: border-box;
    border: 1px dashed var(--w-ink);
    background: var(--w-select);
    pointer-events: none;
  }

  .empty {
    position: absolute;
    top: 14px;
    left: 24px;
    margin: 0;
    padding: 12px 16px;
    border: 1px dashed var(--w-soft);
    background: var(--w-panel);
    font-size: 13px;
    pointer-events: none;
  }
</style>
