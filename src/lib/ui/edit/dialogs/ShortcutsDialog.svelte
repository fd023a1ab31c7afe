<script lang="ts">
  import { Modal } from "carbon-components-svelte";
  import { actions, keyText } from "../../state/actions";
  import { useEditor } from "../../state/editor.svelte";
  import HemLegend from "./HemLegend.svelte";

  const editor = useEditor();
  const more: [string, string][] = [
    ["←  →", "Move the focused clip by 10 ms, with Shift by 1 ms"],
    ["↑  ↓", "Change a focused value, with Shift finely"],
    ["Alt ↑  Alt ↓", "Move the focused step"],
    ["O", "Switch the focused step on or off, or all that are chosen"],
    ["Shift ↑  Shift ↓", "Choose steps from the shown one on"],
    ["1 2 3 4, held", "While clips are pulled: another rule for this drop"],
    ["D, held", "While clips are pulled: drop copies of them"],
    ["Ctrl wheel", "Zoom in time"],
    ["Shift wheel", "Scroll in time"]
  ];
</script>

<Modal
  open
  passiveModal
  size="sm"
  modalHeading="Help: signs and keys"
  on:close={() => (editor.dialog = null)}
>
  <h4>Signs on clips</h4>
  <HemLegend />
  <h4>Keys</h4>
  <dl>
    {#each actions.filter((a) => a.keys) as action (action.id)}
      <dt class="number">{keyText(action.keys ?? "")}</dt>
      <dd>{action.name}</dd>
    {/each}
    {#each more as [keys, what] (keys)}
      <dt class="number">{keys}</dt>
      <dd>{what}</dd>
    {/each}
  </dl>
</Modal>

<style>
  dl {
    display: grid;
    grid-template-columns: 130px 1fr;
    gap: 5px 12px;
    margin: 0;
  }

  h4 {
    margin: 10px 0 6px;
    font-size: 14px;
    font-weight: 600;
  }

  dt {
    color: var(--w-soft);
  }

  dd {
    margin: 0;
  }
</style>
