<script lang="ts">
  import { untrack } from "svelte";
  import Splitter from "../shared/Splitter.svelte";
  import { useEditor } from "../state/editor.svelte";
  import { BENCH_LEAST, BENCH_STANDARD } from "../state/layout.svelte";
  import Bench from "./bench/Bench.svelte";
  import JoinPanel from "./timeline/JoinPanel.svelte";
  import Timeline from "./timeline/Timeline.svelte";
  import VideoPicture from "./timeline/VideoPicture.svelte";
  import TransportLine from "./TransportLine.svelte";

  const editor = useEditor();
  const { session, layout } = editor;
  let windowHeight = $state(window.innerHeight);
  const empty = $derived(session.shown.size("clips") === 0);
  /** The shelf stands beside the timeline while there is nothing on it, and slides over it later. */
  const beside = $derived(editor.shelfOpen && empty);

  // Once there are clips the room is theirs: the shelf comes back when it is called.
  let wasEmpty = untrack(() => empty);
  $effect(() => {
    if (wasEmpty !== empty) editor.shelfOpen = empty;
    wasEmpty = empty;
  });
</script>

<svelte:window bind:innerHeight={windowHeight} />

<div class="screen" style:grid-template-rows="minmax(0, 1fr) 42px {layout.bench}px">
  <main class="upper" class:beside aria-label="Timeline of {session.shown.name}">
    <Timeline />
    <VideoPicture />
    {#if editor.pops.open}<JoinPanel />{/if}
    {#if editor.shelfOpen}
      <div class="shelf" class:over={!beside}>
        {#await import("./shelf/Shelf.svelte") then { default: Shelf }}<Shelf />{/await}
      </div>
    {/if}
  </main>
  <section aria-label="Transport"><TransportLine /></section>
  <section class="lower" aria-label="Bench">
    <Splitter
      label="Height of the bench"
      controls="bench"
      bind:size={layout.bench}
      min={BENCH_LEAST}
      max={layout.most(windowHeight)}
      standard={BENCH_STANDARD}
    />
    <Bench />
  </section>
</div>

<style>
  .screen {
    display: grid;
    min-height: 0;
  }

  .upper {
    position: relative;
    display: grid;
    grid-template-columns: minmax(0, 1fr);
    min-height: 0;
    overflow: hidden;
  }

  .upper.beside {
    grid-template-columns: minmax(0, 1fr) 280px;
  }

  /* Beside the shelf the tools need the room of the words between them. */
  .upper.beside :global([role="toolbar"] > [aria-hidden="true"].soft) {
    display: none;
  }

  .shelf {
    display: grid;
    min-height: 0;
  }

  .shelf.over {
    position: absolute;
    z-index: 5;
    /* The timeline's tools stay in reach. */
    top: 28px;
    bottom: 0;
    right: 0;
    width: 280px;
  }

  .lower {
    position: relative;
    display: grid;
    min-height: 0;
  }
</style>
