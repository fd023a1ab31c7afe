<!-- The one context menu: what can be done with what lies under the pointer, from the list of actions. -->
<script lang="ts">
  import { ContextMenu, ContextMenuDivider, ContextMenuOption } from "carbon-components-svelte";
  import { tick } from "svelte";
  import { actionOf, keyText } from "../state/actions";
  import { MENUS } from "../state/actions/menus";
  import { useEditor } from "../state/editor.svelte";
  import type { Menu } from "../state/menu";
  import { notices } from "../shared/notices.svelte";

  let { menu }: { menu: Menu } = $props();
  const editor = useEditor();
  /** Sizes of Carbon's menu at this density: heights of an option and of a line, and its width; with them it stays on the screen. */
  const OPTION = 26;
  const LINE = 9;
  const WIDTH = 362;

  const items = $derived(MENUS[menu.kind].map((id) => (id === "" ? null : actionOf(id))));
  const height = $derived(items.reduce((sum, item) => sum + (item ? OPTION : LINE), 12));
  const x = $derived(Math.max(1, Math.min(menu.x, window.innerWidth - WIDTH)));
  const y = $derived(Math.max(1, Math.min(menu.y, window.innerHeight - height)));

  function run(id: string): void {
    const action = actionOf(id);
    if (action.enabled(editor)) action.run(editor);
  }

  function close(): void {
    if (editor.menu === null) return;
    const back = editor.menu.back;
    editor.menu = null;
    tick()
      .then(() => {
        // Where the action has put it, it stays.
        const free = document.activeElement === document.body;
        if (free && editor.dialog === null && back?.isConnected) back.focus();
      })
      .catch((error: unknown) => notices.fault(error));
  }
</script>

<!-- Carbon's own listener comes a task later than the menu: an Escape pressed at once would be missed. -->
<svelte:window onkeydown={(event) => event.key === "Escape" && close()} />

<section aria-label={menu.label}>
  <ContextMenu open target={[]} {x} {y} labelText={menu.label} on:close={close}>
    {#each items as item, i (i)}
      {#if item}
        <ContextMenuOption
          labelText={item.name}
          shortcutText={item.keys ? keyText(item.keys) : ""}
          disabled={!item.enabled(editor)}
          kind={item.id.endsWith("emove") ? "danger" : "default"}
          on:click={() => run(item.id)}
        />
      {:else}<ContextMenuDivider />{/if}
    {/each}
  </ContextMenu>
</section>
