<script lang="ts">
  import { onMount, untrack } from "svelte";
  import { tinykeys } from "tinykeys";
  import type { ProjectState } from "$lib/api/types";
  import { notices } from "../shared/notices.svelte";
  import Splitter from "../shared/Splitter.svelte";
  import { actions } from "../state/actions";
  import { Editor, provideEditor } from "../state/editor.svelte";
  import { FocusOrigin } from "../state/focusOrigin";
  import { BENCH_LEAST, BENCH_STANDARD } from "../state/layout.svelte";
  import Bench from "./bench/Bench.svelte";
  import Header from "./Header.svelte";
  import JobsTray from "./JobsTray.svelte";
  import Timeline from "./timeline/Timeline.svelte";
  import TransportLine from "./TransportLine.svelte";

  let { initial }: { initial: ProjectState } = $props();
  /** The page is there for so long before it loads what may be called. */
  const IDLE_MS = 2000;
  const editor = provideEditor(new Editor(untrack(() => initial)));
  const { session, selection, transport, layout } = editor;

  /** What is not there at first comes when it is called, or when the page has nothing else to do. */
  const later = {
    shelf: () => import("./shelf/Shelf.svelte"),
    menu: () => import("./Menu.svelte"),
    dialogs: () => import("./dialogs/Dialogs.svelte")
  };
  const focus = new FocusOrigin();
  let windowHeight = $state(window.innerHeight);
  let dropping = $state(false);
  const empty = $derived(session.shown.size("clips") === 0);
  /** The shelf stands beside the timeline while there is nothing on it, and slides over it later. */
  const beside = $derived(editor.shelfOpen && empty);

  // Before the screen is drawn anew: what is heard should not wait for what is seen.
  $effect.pre(() => transport.giveDocument());
  $effect.pre(() => editor.clips.show(session.shown));
  // Once there are clips the room is theirs: the shelf comes back when it is called.
  let wasEmpty = untrack(() => empty);
  $effect(() => {
    if (wasEmpty !== empty) editor.shelfOpen = empty;
    wasEmpty = empty;
  });
  $effect(() => transport.giveLoop());
  $effect(() => layout.keep());

  /** Whether a key is meant for what has the focus. */
  function busyElsewhere(event: KeyboardEvent): boolean {
    if (editor.dialog !== null || editor.menu !== null) return true;
    const { target } = event;
    if (!(target instanceof Element)) return false;
    if (target.matches("input:not([type=range]):not([type=checkbox]), textarea, select")) return true;
    // Space presses a control that was reached by keyboard; after a click with the pointer it plays.
    return (
      event.code === "Space" &&
      !focus.byPointer(target) &&
      target.matches("button, a, input, [role=switch], [role=tab], [role=slider], [role=combobox]")
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
    const forget = focus.listen(window);
    const idle = setTimeout(() => {
      for (const load of Object.values(later)) load().catch((error: unknown) => notices.fault(error));
    }, IDLE_MS);
    return () => {
      unbind();
      forget();
      clearTimeout(idle);
      editor.close();
    };
  });

  function drop(event: DragEvent): void {
    event.preventDefault();
    dropping = false;
    if (event.dataTransfer?.files.length) editor.importFiles(event.dataTransfer.files);
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
  <main class="upper" class:beside aria-label="Timeline of {session.shown.name}">
    <Timeline />
    {#if editor.shelfOpen}
      <div class="shelf" class:over={!beside}>
        {#await later.shelf() then { default: Shelf }}<Shelf />{/await}
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
<JobsTray />
{#if editor.menu}
  {#await later.menu() then { default: Menu }}
    {#key editor.menu}{#if editor.menu}<Menu menu={editor.menu} />{/if}{/key}
  {/await}
{/if}
{#if editor.dialog !== null || session.question}
  {#await later.dialogs() then { default: Dialogs }}<Dialogs />{/await}
{/if}
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
    grid-template-columns: minmax(0, 1fr);
    min-height: 0;
    overflow: hidden;
  }

  .upper.beside {
    grid-template-columns: minmax(0, 1fr) 280px;
  }

  .shelf {
    display: grid;
    min-height: 0;
  }

  .shelf.over {
    position: absolute;
    z-index: 5;
    top: 0;
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
