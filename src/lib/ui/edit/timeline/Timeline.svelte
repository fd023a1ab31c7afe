<!-- The timeline: heads of tracks and their lanes under the ruler and the sections, the whole programme below. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import Flow from "carbon-icons-svelte/lib/Flow.svelte";
  import Add from "carbon-icons-svelte/lib/Add.svelte";
  import { onDestroy } from "svelte";
  import { tracksInOrder } from "$lib/core/session/lookup";
  import type { Track } from "$lib/core/session/schema";
  import { MIX, stepsOfOwner } from "$lib/core/session/owners";
  import { sameList } from "../../shared/sameList";
  import { useEditor } from "../../state/editor.svelte";
  import { addTrack } from "../../state/editing";
  import Lanes from "./Lanes.svelte";
  import { LaidOut } from "./laidOut.svelte";
  import { HEADS, LaneStack } from "./layout";
  import ProgrammeStrip from "./ProgrammeStrip.svelte";
  import Ruler from "./Ruler.svelte";
  import Sections from "./Sections.svelte";
  import TimelineTools from "./TimelineTools.svelte";
  import TrackHead from "./TrackHead.svelte";

  const editor = useEditor();
  const { session, selection, view, layout, transport } = editor;
  const WHEEL_ZOOM = 1.0018;
  const WHEEL_TALLER = 1.004;

  const laidOut = new LaidOut(view);
  $effect(() => laidOut.follow());
  onDestroy(() => laidOut.close());

  let rows: HTMLElement | undefined = $state();
  let scrolled = $state(0);
  let roomHeight = $state(400);
  const mixSteps = $derived(stepsOfOwner(session.shown, MIX).length);
  const same = sameList<Track>();
  const tracks = $derived(same(tracksInOrder(session.shown)));
  const stack = $derived(new LaneStack(tracks.map((track) => layout.lane(track.id))));

  /** Lanes that are nearly in sight are there as well. */
  const NEAR = 40;
  const near = $derived(
    tracks.map((_, i) => {
      const top = stack.top(i);
      return top < scrolled + roomHeight + NEAR && top + stack.height(i) > scrolled - NEAR;
    })
  );

  $effect(() => {
    if (transport.playing) view.follow(transport.position);
  });

  // A track that has just been made may lie below what is in sight.
  $effect(() => {
    const lane = tracks.findIndex(({ id }) => id === view.track);
    if (!rows || lane < 0) return;
    const [top, height] = [stack.top(lane), stack.height(lane)];
    rows.scrollTop = Math.min(top, Math.max(rows.scrollTop, top + height - rows.clientHeight));
    view.track = null;
  });

  function onwheel(event: WheelEvent): void {
    const box = rows?.getBoundingClientRect();
    if (!box || !rows) return;
    if (event.ctrlKey || event.metaKey) {
      event.preventDefault();
      view.zoom(WHEEL_ZOOM ** -event.deltaY, event.clientX - box.left - HEADS);
    } else if (event.altKey) {
      event.preventDefault();
      const track = tracks[stack.at(event.clientY - box.top + rows.scrollTop)];
      if (track) layout.taller(track.id, WHEEL_TALLER ** -event.deltaY);
    } else if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
      event.preventDefault();
      view.scroll(event.deltaX || event.deltaY);
    }
  }
</script>

<div class="timeline" {onwheel} style:--heads="{HEADS}px">
  <TimelineTools />
  <div class="corner">
    <Button kind="tertiary" size="small" icon={Add} on:click={() => addTrack(editor)}>Track</Button>
    <Button
      kind="tertiary"
      size="small"
      icon={Flow}
      aria-pressed={selection.isSubject(MIX)}
      aria-label="Chain of the mix, {mixSteps} step{mixSteps === 1 ? '' : 's'}"
      title="Put the mix on the bench: its chain treats everything"
      on:click={() => selection.chooseOwner(MIX)}>Mix{mixSteps > 0 ? ` ${mixSteps}` : ""}</Button
    >
  </div>
  <div class="top">
    <Ruler />
    <Sections {laidOut} />
  </div>
  <div
    class="rows"
    bind:this={rows}
    bind:clientHeight={roomHeight}
    onscroll={(event) => (scrolled = event.currentTarget.scrollTop)}
  >
    <div class="heads">
      {#each tracks as track, i (track.id)}
        {#if near[i]}<TrackHead {track} height={layout.lane(track.id)} />{:else}
          <div style:height="{layout.lane(track.id)}px"></div>
        {/if}
      {/each}
    </div>
    <Lanes {tracks} {stack} {laidOut} {near} seen={{ top: scrolled, height: roomHeight }} />
  </div>
  <ProgrammeStrip {tracks} />
</div>

<style>
  .timeline {
    display: grid;
    grid-template: 28px 44px minmax(0, 1fr) 24px / var(--heads) 1fr;
    min-height: 0;
    min-width: 0;
    background: var(--w-sunk);
  }

  .corner {
    display: flex;
    align-items: center;
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
    grid-template-columns: var(--heads) 1fr;
    align-items: start;
    overflow: hidden auto;
    scrollbar-width: thin;
    scrollbar-color: var(--w-soft) var(--w-sunk);
  }

  .heads {
    border-right: 1px solid var(--w-rule);
  }
</style>
