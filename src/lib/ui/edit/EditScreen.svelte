<script lang="ts">
  import SidePanelOpen from "carbon-icons-svelte/lib/SidePanelOpen.svelte";
  import { onMount, untrack } from "svelte";
  import { tinykeys } from "tinykeys";
  import type { ProjectState } from "$lib/api/types";
  import Notices from "../shared/Notices.svelte";
  import Splitter from "../shared/Splitter.svelte";
  import { actions } from "../state/actions";
  import { Editor, provideEditor } from "../state/editor.svelte";
  import { BENCH_LEAST, BENCH_STANDARD } from "../state/layout.svelte";
  import Bench from "./bench/Bench.svelte";
  import Dialogs from "./dialogs/Dialogs.svelte";
  import Header from "./Header.svelte";
  import JobsTray from "./JobsTray.svelte";
  import Shelf from "./shelf/Shelf.svelte";
  import Timeline from "./timeline/Timeline.svelte";
  import TransportLine from "./TransportLine.svelte";

  let { initial }: { initial: ProjectState } = $props();
  const editor = provideEditor(new Editor(untrack(() => initial)));
  const { session, selection, transport, jobs, layout } = editor;

  let windowHeight = $state(window.innerHeight);
  let dropping = $state(false);

  // Before the screen is drawn anew: what is heard should not wait for what is seen.
  $effect.pre(() => transport.giveDocument());
  $effect.pre(() => editor.clips.show(session.shown));
  $effect(() => transport.giveLoop());
  $effect(() => layout.keep());

  function busyElsewhere(event: KeyboardEvent): boolean {
    if (editor.dialog !== null) return true;
    const { target } = event;
    return (
      target instanceof Element &&
      target.matches("input:not([type=range]):not([type=checkbox]), textarea, select")
    );
  }

  onMount(() => {
    const bindings = Object.fromEntries(
      actions
        .filter((a) => a.keys)
        .map((action) => [
          action.keys,
          (event: KeyboardEvent) => {
            if (busyElsewhere(event) && !(action.id === "actions")) return;
            if (!action.enabled(editor)) return;
            event.preventDefault();
            action.run(editor);
          }
        ])
    );
    const unbind = tinykeys(window, bindings);
    return () => {
      unbind();
      editor.close();
    };
  });

  function drop(event: DragEvent): void {
    event.preventDefault();
    dropping = false;
    if (event.dataTransfer?.files.length) jobs.importFiles(event.dataTransfer.files);
  }
</script>

<svelte:window
  bind:innerHeight={windowHeight}
  onbeforeunload={(event) => {
    if (session.unsaved > 0) event.preventDefault();
  }}
/>

<!-- Files may be dropped anywhere; the same is done by the button on the shelf. -->
<!-- svelte-ignore a11y_no_static_element_interactions -->
<div
  class="screen"
  class:dropping
  style:grid-template-rows="40px minmax(0, 1fr) 42px {layout.bench}px"
  ondragover={(event) => {
    event.preventDefault();
    dropping = event.dataTransfer?.types.includes("Files") ?? false;
  }}
  ondragleave={() => (dropping = false)}
  ondrop={drop}
>
  <Header />
  <main class="upper" class:open={editor.shelfOpen} aria-label="Timeline of {session.shown.name}">
    {#if editor.shelfOpen}<Shelf />{:else}
      <button
        class="plain bare opener"
        aria-label="Show the shelf"
        title="Show the shelf (S)"
        onclick={() => (editor.shelfOpen = true)}><SidePanelOpen size={16} /></button
      >
    {/if}
    <Timeline />
  </main>
  <TransportLine />
  <div class="lower">
    <Splitter
      label="Height of the bench"
      controls="bench"
      bind:size={layout.bench}
      min={BENCH_LEAST}
      max={layout.most(windowHeight)}
      standard={BENCH_STANDARD}
    />
    <Bench />
  </div>
</div>
<JobsTray />
<Dialogs />
<Notices />
<div class="visually-hidden" role="status">
  {`${selection.subject.name} is on the bench`}
</div>

<style>
  .screen {
    display: grid;
    height: 100vh;
    min-width: 1100px;
    overflow: hidden;
  }

  .dropping {
    outline: 4px solid var(--w-ochre);
    outline-offset: -4px;
  }

  .upper {
    position: relative;
    display: grid;
    grid-template-columns: 26px minmax(0, 1fr);
    min-height: 0;
    overflow: hidden;
  }

  .upper.open {
    grid-template-columns: 236px minmax(0, 1fr);
  }

  .opener {
    align-self: start;
    padding: 4px;
    background: var(--w-panel);
  }

  .lower {
    position: relative;
    display: grid;
    min-height: 0;
  }
</style>
