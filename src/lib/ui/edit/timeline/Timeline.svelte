<script lang="ts">
  import Flow from "carbon-icons-svelte/lib/Flow.svelte";
  import Add from "carbon-icons-svelte/lib/Add.svelte";
  import { programmeEnd, resolveClip, tracksInOrder } from "$lib/core/session/lookup";
  import { MIX, stepsOfOwner } from "$lib/core/session/owners";
  import { useEditor } from "../../state/editor.svelte";
  import { addClip, addTrack } from "../../state/editing";
  import { movingOf } from "../../state/moving";
  import ClipCard from "./ClipCard.svelte";
  import type { Gesture, LanePoint } from "./gestures/gesture";
  import { Marquee, type Rectangle } from "./gestures/marquee";
  import { MoveClips } from "./gestures/moveClips";
  import { lanePointer } from "./gestures/pointer";
  import { ShapeClip } from "./gestures/shapeClip";
  import { spotAt } from "./gestures/spot";
  import { CARD_LESS, LaneStack } from "./layout";
  import Ruler from "./Ruler.svelte";
  import Sections from "./Sections.svelte";
  import TrackHead from "./TrackHead.svelte";

  const editor = useEditor();
  const { session, selection, view, clips, layout, transport, jobs } = editor;
  const WHEEL_ZOOM = 1.0018;

  let lanes: HTMLElement | undefined = $state();
  let shownOnce = false;
  let over = $state<string | null>(null);

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

  $effect(() => {
    if (transport.playing) view.follow(transport.position);
  });

  const mixSteps = $derived(stepsOfOwner(session.shown, MIX).length);
  const tracks = $derived(tracksInOrder(session.shown));
  /** Clips a little beyond the view are there as well, so that the focus finds the next. */
  const seen = $derived({
    from: view.left - view.frames / 4,
    to: view.left + view.frames * 1.25
  });
  const lanesStack = $derived(new LaneStack(tracks.map((track) => layout.lane(track.id))));
  let marquee = $state.raw<Rectangle | null>(null);

  /** What a press on the lanes begins when it becomes a drag. */
  function begin(at: LanePoint): Gesture {
    const { clip, zone } = spotAt(at, tracks, lanesStack, clips, view);
    if (!clip || !zone)
      return new Marquee(editor, at, tracks, lanesStack, (rectangle) => (marquee = rectangle));
    if (!selection.has(clip.id)) selection.choose(clip.id, at.shift || at.ctrl);
    if (zone !== "body") return new ShapeClip(editor, at, clip, zone);
    return new MoveClips(editor, at, movingOf(session.document, selection.clipIds), lanesStack);
  }
  const whole = $derived(
    Math.max(programmeEnd(session.shown) * 1.05, view.left + view.frames, editor.sampleRate * 10)
  );

  // A scrollbar of the browser's own; its range is capped, since elements cannot be as wide as hours of samples.
  let scroller: HTMLElement | undefined = $state();
  const inner = $derived(Math.min(1e6, (view.width * whole) / view.frames));
  const wantedScroll = $derived((view.left / whole) * inner);
  $effect(() => {
    if (scroller) scroller.scrollLeft = wantedScroll;
  });

  function onwheel(event: WheelEvent): void {
    if (event.ctrlKey || event.metaKey) {
      event.preventDefault();
      const x = event.clientX - (lanes?.getBoundingClientRect().left ?? 0);
      view.zoom(WHEEL_ZOOM ** -event.deltaY, x);
    } else if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
      event.preventDefault();
      view.scroll(event.deltaX || event.deltaY);
    }
  }

  function drop(event: DragEvent, trackId: string | undefined): void {
    event.preventDefault();
    over = null;
    const id = event.dataTransfer?.getData("application/x-wring-recording");
    const recording = id ? session.document.get("recordings", id) : undefined;
    if (recording) {
      const x = event.clientX - (lanes?.getBoundingClientRect().left ?? 0);
      addClip(editor, recording, trackId, view.frameAt(x));
    } else if (event.dataTransfer?.files.length) jobs.importFiles(event.dataTransfer.files);
  }

  function locate(event: MouseEvent): void {
    const x = event.clientX - (lanes?.getBoundingClientRect().left ?? 0);
    transport.locate(view.frameAt(x));
    if (!event.shiftKey) selection.clear();
  }
</script>

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div
  class="timeline"
  {onwheel}
  ondragover={(event) => event.preventDefault()}
  ondrop={(event) => drop(event, undefined)}
>
  <div class="corner">
    <button
      class="plain"
      aria-pressed={selection.isSubject(MIX)}
      aria-label="Chain of the mix, {mixSteps} step{mixSteps === 1 ? '' : 's'}"
      title="Put the mix on the bench: its chain treats everything"
      onclick={() => selection.chooseOwner(MIX)}
      ><Flow size={16} />Mix{mixSteps > 0 ? ` ${mixSteps}` : ""}</button
    >
    <button class="plain" onclick={() => addTrack(editor)}><Add size={16} />Track</button>
  </div>
  <div class="top">
    <Ruler />
    <Sections />
  </div>
  <div class="rows">
    <div class="heads">
      {#each tracks as track (track.id)}<TrackHead {track} height={layout.lane(track.id)} />{/each}
    </div>
    <div class="lanes" bind:this={lanes} {@attach lanePointer(begin)}>
      {#each tracks as track (track.id)}
        <!-- Keyboard: clips take the focus themselves; the playhead has its field. -->
        <!-- svelte-ignore a11y_click_events_have_key_events -->
        <div
          class="lane"
          class:over={over === track.id}
          class:silent={track.muted}
          data-lane={track.id}
          style:height="{layout.lane(track.id)}px"
          onclick={locate}
          ondragover={(event) => {
            event.preventDefault();
            over = track.id;
          }}
          ondragleave={() => (over = null)}
          ondrop={(event) => {
            event.stopPropagation();
            drop(event, track.id);
          }}
        >
          {#each clips.overlapping(track.id, seen.from, seen.to) as clip (clip.id)}<ClipCard
              clip={resolveClip(session.shown, clip)}
              height={layout.lane(track.id) - CARD_LESS}
            />{/each}
        </div>
      {/each}
      {#if programmeEnd(session.shown) === 0}
        <p class="empty">
          {#if tracks.length === 0}Add a track first.{:else}
            Nothing here yet. Drop WAV files anywhere on this window, then pull a recording from the shelf to
            a track.
          {/if}
        </p>
      {/if}
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
        <div
          class="range"
          style:left="{view.x(selection.range.from)}px"
          style:width="{(selection.range.to - selection.range.from) / view.framesPerPixel}px"
        ></div>
      {/if}
      {#if view.x(transport.position) >= 0 && view.x(transport.position) <= view.width}
        <div class="playhead" style:left="{view.x(transport.position)}px"></div>
      {/if}
    </div>
  </div>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <div
    class="scroll"
    bind:this={scroller}
    role="region"
    aria-label="Scroll the timeline"
    tabindex="0"
    onscroll={() => {
      if (scroller && Math.abs(scroller.scrollLeft - wantedScroll) > 1)
        view.left = (scroller.scrollLeft / inner) * whole;
    }}
  >
    <div style:width="{inner}px"></div>
  </div>
</div>

<style>
  .timeline {
    display: grid;
    grid-template: 44px minmax(0, 1fr) 14px / 216px 1fr;
    min-height: 0;
    min-width: 0;
    background: var(--w-sunk);
  }

  .corner {
    display: flex;
    align-items: center;
    justify-content: flex-end;
    gap: 4px;
    padding: 0 6px;
    border-right: 1px solid var(--w-rule);
    border-bottom: 1px solid var(--w-rule);
    background: var(--w-panel);
  }

  .top {
    min-width: 0;
  }

  .rows {
    grid-column: 1 / -1;
    display: grid;
    grid-template-columns: 216px 1fr;
    align-items: start;
    overflow: hidden auto;
    scrollbar-gutter: auto;
  }

  .heads {
    border-right: 1px solid var(--w-rule);
  }

  .lanes {
    position: relative;
    min-width: 0;
    min-height: 100%;
    overflow: hidden;
  }

  .lane {
    position: relative;
    box-sizing: border-box;
    border-bottom: 1px solid var(--w-rule);
    background: var(--w-paper);
  }

  .lane.over {
    background: var(--w-select);
  }

  .lane.silent {
    background: var(--w-sunk);
  }

  .range {
    position: absolute;
    top: 0;
    bottom: 0;
    background: var(--w-select);
    border-inline: 1px solid var(--w-ochre);
    pointer-events: none;
  }

  .marquee {
    position: absolute;
    z-index: 1;
    box-sizing: border-box;
    border: 1px dashed var(--w-ink);
    background: var(--w-select);
    pointer-events: none;
  }

  .playhead {
    position: absolute;
    top: 0;
    bottom: 0;
    width: 0;
    border-left: 1.5px solid var(--w-ink);
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

  .scroll {
    grid-column: 2;
    min-width: 0;
    overflow: auto hidden;
    scrollbar-color: var(--w-soft) var(--w-sunk);
    scrollbar-width: thin;
  }

  .scroll > div {
    height: 1px;
  }
</style>
