<script lang="ts">
  import Export from "carbon-icons-svelte/lib/Export.svelte";
  import Redo from "carbon-icons-svelte/lib/Redo.svelte";
  import SearchLocate from "carbon-icons-svelte/lib/SearchLocate.svelte";
  import Undo from "carbon-icons-svelte/lib/Undo.svelte";
  import LookButton from "../shared/LookButton.svelte";
  import TypedField from "../shared/TypedField.svelte";
  import { useEditor } from "../state/editor.svelte";

  const editor = useEditor();
  const { session } = editor;
</script>

<header>
  <a class="home" href="/" title="Back to the projects">Wring</a>
  <h1 class="visually-hidden">{session.shown.name}</h1>
  <span class="project">
    <TypedField
      label="Name of the project"
      takes="1 to 120 characters"
      text={session.shown.name}
      width="220px"
      commit={(name) => name.trim() !== "" && session.run({ type: "project.rename", name })}
    />
  </span>
  <span class="gap"></span>
  <button
    class="plain bare"
    disabled={!session.undoName}
    onclick={() => session.undo()}
    title="Undo (Ctrl Z)"
  >
    <Undo size={16} />Undo{session.undoName ? `: ${session.undoName}` : ""}
  </button>
  <button
    class="plain bare"
    disabled={!session.redoName}
    aria-label={session.redoName ? `Redo: ${session.redoName}` : "Redo"}
    onclick={() => session.redo()}
    title={session.redoName ? `Redo: ${session.redoName} (Ctrl Shift Z)` : "Redo (Ctrl Shift Z)"}
  >
    <Redo size={16} />Redo
  </button>
  <span
    class="saved"
    class:soft={session.hindrance === null}
    class:warn={session.hindrance !== null}
    role="status">{session.saving}</span
  >
  <button class="plain bare" onclick={() => (editor.dialog = "actions")} title="Find any action (Ctrl K)">
    <SearchLocate size={16} />Find
  </button>
  <button class="plain" onclick={() => (editor.dialog = "export")}><Export size={16} />Export…</button>
  <LookButton />
</header>

<style>
  header {
    display: flex;
    align-items: center;
    gap: 6px;
    height: 40px;
    padding: 0 10px 0 14px;
    border-bottom: 1px solid var(--w-rule);
    background: var(--w-panel);
  }

  .home {
    color: var(--w-ink);
    font-size: 17px;
    font-weight: 600;
    text-decoration: none;
  }

  .project {
    margin-left: 8px;
  }

  .project :global(input) {
    border-color: transparent;
    font-family: var(--w-sans);
    font-size: 14px;
  }

  .project :global(input:hover),
  .project :global(input:focus) {
    border-color: var(--w-rule);
  }

  .gap {
    flex: 1;
  }

  .warn {
    color: var(--w-madder);
    font-weight: 600;
  }

  .saved {
    min-width: 48px;
    padding: 0 6px;
    font-size: 12px;
  }
</style>
