<!-- Finds any action by typing. -->
<script lang="ts">
  import { Modal, Search } from "carbon-components-svelte";
  import { tick } from "svelte";
  import { notices } from "../../shared/notices.svelte";
  import { actions, keyText } from "../../state/actions";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  let typed = $state("");
  let chosen = $state(0);
  const found = $derived(
    actions.filter(
      (a) =>
        a.id !== "actions" &&
        typed
          .toLowerCase()
          .split(/\s+/)
          .every((word) => a.name.toLowerCase().includes(word))
    )
  );

  function run(index: number): void {
    const action = found[index];
    if (!action?.enabled(editor)) return;
    editor.dialog = null;
    action.run(editor);
  }

  function onkeydown(event: KeyboardEvent): void {
    // The dialog's own.
    if (event.key === "Escape") return;
    event.stopPropagation();
    if (event.key === "ArrowDown") chosen = Math.min(found.length - 1, chosen + 1);
    else if (event.key === "ArrowUp") chosen = Math.max(0, chosen - 1);
    else if (event.key === "Enter") run(chosen);
    else return;
    event.preventDefault();
    tick()
      .then(() => document.querySelector("#action-list .chosen")?.scrollIntoView({ block: "nearest" }))
      .catch((error: unknown) => notices.fault(error));
  }
</script>

<Modal
  open
  passiveModal
  size="sm"
  modalHeading="Find an action"
  selectorPrimaryFocus="input"
  on:close={() => editor.dialog === "actions" && (editor.dialog = null)}
>
  <Search
    size="sm"
    role="combobox"
    labelText="Action"
    aria-expanded="true"
    aria-controls="action-list"
    aria-activedescendant={found[chosen] ? `action-${found[chosen].id}` : undefined}
    placeholder="Type what you want to do"
    bind:value={typed}
    on:input={() => (chosen = 0)}
    on:keydown={onkeydown}
  />
  <div id="action-list" role="listbox" aria-label="Actions">
    {#each found as action, i (action.id)}
      {@const can = action.enabled(editor)}
      <!-- svelte-ignore a11y_click_events_have_key_events -->
      <div
        id="action-{action.id}"
        role="option"
        tabindex="-1"
        aria-selected={i === chosen}
        aria-disabled={!can}
        class:chosen={i === chosen}
        class:soft={!can}
        onclick={() => run(i)}
      >
        <span>{action.name}{can ? "" : " (nothing to do it to)"}</span>
        {#if action.keys}<kbd class="number">{keyText(action.keys)}</kbd>{/if}
      </div>
    {:else}
      <p class="soft">No action has these words in its name.</p>
    {/each}
  </div>
</Modal>

<style>
  [role="listbox"] {
    height: 46vh;
    margin-top: 6px;
    overflow-y: auto;
  }

  [role="option"] {
    display: flex;
    justify-content: space-between;
    padding: 5px 8px;
    font-size: 13px;
    cursor: pointer;
  }

  .chosen {
    background: var(--w-select);
  }

  kbd {
    color: var(--w-soft);
    font-size: 12px;
  }
</style>
