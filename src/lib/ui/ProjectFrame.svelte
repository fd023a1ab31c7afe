<!-- What all screens of a project share: the editor, the top line, messages, menus, dialogs, and the keys. -->
<script lang="ts">
  import { onMount, untrack, type Snippet } from "svelte";
  import { tinykeys } from "tinykeys";
  import type { ProjectState } from "$lib/api/types";
  import { droppedFiles } from "./shared/givenFiles";
  import { notices } from "./shared/notices.svelte";
  import { actions } from "./state/actions";
  import { Editor, provideEditor } from "./state/editor.svelte";
  import { FocusOrigin } from "./state/focusOrigin";
  import ActionsDialog from "./edit/dialogs/ActionsDialog.svelte";
  import Header from "./edit/Header.svelte";
  import JobsTray from "./edit/JobsTray.svelte";

  interface Props {
    initial: ProjectState;
    /** Path of the screen behind that of the project. */
    screen: string;
    children: Snippet;
  }

  let { initial, screen, children }: Props = $props();
  /** The page is there for so long before it loads what may be called. */
  const IDLE_MS = 2000;
  const editor = provideEditor(new Editor(untrack(() => initial)));
  const { session, selection, transport, layout } = editor;

  /** What is not there at first comes when it is called, or when the page has nothing else to do. */
  const later = {
    shelf: () => import("./edit/shelf/Shelf.svelte"),
    menu: () => import("./edit/Menu.svelte"),
    dialogs: () => import("./edit/dialogs/Dialogs.svelte")
  };
  const focus = new FocusOrigin();
  let dropping = $state(false);

  // What else is heard than the document: candidates and trials. The document itself is given as soon as it changes.
  $effect.pre(() => transport.giveDocument());
  $effect.pre(() => editor.clips.show(session.shown));
  $effect(() => transport.giveLoop());
  $effect(() => transport.giveMonitor(editor.monitoring.setting));
  $effect(() => transport.giveBackground(editor.preferences.background));
  $effect(() => editor.monitoring.keep());
  $effect(() => layout.keep());
  $effect(() => editor.preferences.keep());

  /** Whether a key is meant for what has the focus. */
  function busyElsewhere(event: KeyboardEvent): boolean {
    if (editor.dialog !== null || editor.menu !== null) return true;
    const { target } = event;
    if (!(target instanceof Element)) return false;
    // In a panel it is the panel's: what is treated there stays selected.
    if (event.key === "Escape" && target.closest("#bench, aside, [role=toolbar]")) return true;
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
            if ((screen !== "" && !action.anywhere) || !action.enabled(editor)) return;
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
    if (event.dataTransfer?.types.includes("Files"))
      droppedFiles(event.dataTransfer)
        .then((given) => editor.importFiles(given))
        .catch((error: unknown) => notices.fault(error));
  }
</script>

<svelte:window
  onbeforeunload={(event) => {
    if (session.unsaved > 0) event.preventDefault();
  }}
/>

<!-- Files may be dropped anywhere; the same is done by the button in the top line. -->
<!-- svelte-ignore a11y_no_static_element_interactions -->
<div
  class="frame"
  class:dropping
  ondragover={(event) => {
    event.preventDefault();
    dropping = event.dataTransfer?.types.includes("Files") ?? false;
  }}
  ondragleave={() => (dropping = false)}
  ondrop={drop}
>
  <Header {screen} />
  {@render children()}
</div>
<JobsTray
  quiet={[
    "import",
    "batchEnd",
    ...(screen === "deliver" ? ["deliver"] : screen === "batch" ? ["batch"] : [])
  ]}
/>
{#if editor.menu}
  {#await later.menu() then { default: Menu }}
    {#key editor.menu}{#if editor.menu}<Menu menu={editor.menu} />{/if}{/key}
  {/await}
{/if}
{#if editor.dialog === "actions"}
  <!-- It is there at once: what is typed right after its key is meant for it. -->
  <h2 class="visually-hidden">Dialog</h2>
  <ActionsDialog />
{:else if editor.dialog !== null || session.question}
  {#await later.dialogs() then { default: Dialogs }}<Dialogs />{/await}
{/if}
<div class="visually-hidden" role="status">
  {`${selection.subject.name} is on the bench`}
</div>

<style>
  .frame {
    display: grid;
    grid-template-rows: 40px minmax(0, 1fr);
    height: 100vh;
    min-width: 1100px;
    /* Not hidden: that could still be scrolled, by whatever brings an element into sight. */
    overflow: clip;
  }

  .dropping {
    outline: 4px solid var(--w-ochre);
    outline-offset: -4px;
  }
</style>
