<!-- The top line: project, screens, history, messages, and what concerns all of it. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import Export from "carbon-icons-svelte/lib/Export.svelte";
  import Redo from "carbon-icons-svelte/lib/Redo.svelte";
  import SearchLocate from "carbon-icons-svelte/lib/SearchLocate.svelte";
  import Undo from "carbon-icons-svelte/lib/Undo.svelte";
  import ImportButton from "../shared/ImportButton.svelte";
  import LookButton from "../shared/LookButton.svelte";
  import { notices } from "../shared/notices.svelte";
  import Notices from "../shared/Notices.svelte";
  import TypedField from "../shared/TypedField.svelte";
  import { useEditor } from "../state/editor.svelte";

  /** Path of the screen that is shown. */
  let { screen }: { screen: string } = $props();
  const editor = useEditor();
  const { session } = editor;
  /** The screens that there are. */
  const screens = [
    { name: "Edit", path: "" },
    { name: "Presets", path: "presets" },
    { name: "Batch", path: "batch" },
    { name: "Deliver", path: "deliver" }
  ];
</script>

<header>
  <a class="home" href="/" title="Back to the projects">Wring</a>
  <h1 class="visually-hidden">{session.shown.name}</h1>
  <span class="project">
    <TypedField
      label="Name of the project"
      takes="1 to 120 characters"
      text={session.shown.name}
      width="150px"
      commit={(name) => name.trim() !== "" && session.run({ type: "project.rename", name })}
    />
  </span>
  <nav aria-label="Screens">
    {#each screens as { name, path } (path)}
      <a
        href="/projects/{session.projectId}{path === '' ? '' : `/${path}`}"
        aria-current={path === screen ? "page" : undefined}>{name}</a
      >
    {/each}
  </nav>
  <Button
    kind="ghost"
    size="small"
    icon={Undo}
    disabled={!session.undoName}
    title={session.undoName ? `Undo: ${session.undoName} (Ctrl Z)` : "Undo (Ctrl Z)"}
    on:click={() => session.undo()}
    ><span class="visually-hidden">Undo{session.undoName ? `: ${session.undoName}` : ""}</span></Button
  >
  <Button
    kind="ghost"
    size="small"
    icon={Redo}
    disabled={!session.redoName}
    title={session.redoName ? `Redo: ${session.redoName} (Ctrl Shift Z)` : "Redo (Ctrl Shift Z)"}
    on:click={() => session.redo()}
    ><span class="visually-hidden">Redo{session.redoName ? `: ${session.redoName}` : ""}</span></Button
  >
  <!-- Messages take the place of what would be undone: nothing else moves when they come and go. -->
  <span class="told">
    <Notices />
    {#if notices.list.length === 0 && session.undoName}
      <span class="last soft" aria-hidden="true" title="What undo takes back">{session.undoName}</span>
    {/if}
  </span>
  <span
    class="saved"
    class:soft={session.hindrance === null}
    class:warn={session.hindrance !== null}
    role="status">{session.saving}</span
  >
  <Button
    kind="tertiary"
    size="small"
    icon={SearchLocate}
    title="Find any action (Ctrl K)"
    on:click={() => (editor.dialog = "actions")}>Find</Button
  >
  <ImportButton label="Import…" take={(given) => editor.importFiles(given)} />
  {#if screen === ""}
    <Button kind="tertiary" size="small" icon={Export} on:click={() => (editor.dialog = "export")}
      >Export…</Button
    >
  {/if}
  <LookButton />
</header>

<style>
  header {
    display: flex;
    align-items: center;
    gap: 6px;
    height: 40px;
    min-width: 0;
    padding: 0 8px 0 14px;
    border-bottom: 1px solid var(--w-rule);
    background: var(--w-panel);
  }

  header > :global(*) {
    flex: none;
  }

  .home {
    color: var(--w-ink);
    font-size: 17px;
    font-weight: 600;
    text-decoration: none;
  }

  .project :global(input.bx--text-input) {
    border-color: transparent;
    background: transparent;
    font-family: var(--w-sans);
    font-size: 14px;
  }

  .project :global(input.bx--text-input:hover),
  .project :global(input.bx--text-input:focus) {
    border-color: var(--w-rule);
  }

  nav {
    align-self: stretch;
    display: flex;
  }

  nav a {
    display: flex;
    align-items: center;
    padding: 3px 10px 0;
    border-bottom: 3px solid transparent;
    color: var(--w-ink);
    text-decoration: none;
  }

  nav a:hover {
    border-color: var(--w-rule);
  }

  nav a[aria-current="page"] {
    border-color: var(--w-slate);
    font-weight: 600;
  }

  header > :global(.bx--btn--ghost) {
    width: 34px;
    padding: 0;
  }

  header > .told {
    flex: 1;
    min-width: 0;
  }

  .last {
    display: block;
    overflow: hidden;
    font-size: 12px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  .warn {
    color: var(--w-madder);
    font-weight: 600;
  }

  .saved {
    padding: 0 4px;
    font-size: 12px;
  }
</style>
