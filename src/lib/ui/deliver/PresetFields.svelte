<!-- Saved settings: choose, save, delete. -->
<script lang="ts">
  import { Button, ComboBox, TextInput } from "carbon-components-svelte";
  import TrashCan from "carbon-icons-svelte/lib/TrashCan.svelte";
  import { notices } from "../shared/notices.svelte";
  import { useEditor } from "../state/editor.svelte";

  const { deliveries } = useEditor();
  let name = $state("");
  const items = $derived(
    deliveries.choices.map((choice) => ({ id: choice.name, text: choice.name, choice }))
  );
  let chosen = $state<string | undefined>(undefined);
  /** The preset stands in its field as long as nothing of it was changed: then it can be chosen anew. */
  const current = $derived(
    deliveries.choices.find(
      (choice) =>
        choice.name === chosen && JSON.stringify(choice.settings) === JSON.stringify(deliveries.settings)
    )
  );
  const own = $derived(deliveries.saved.find((preset) => preset.name === chosen));

  function choose(id: string): void {
    chosen = id;
    const found = deliveries.choices.find((choice) => choice.name === id);
    if (!found) return;
    deliveries.change(found.settings);
    name = found.id === null ? "" : found.name;
  }

  async function save(): Promise<void> {
    const wanted = name.trim();
    if (wanted === "") return;
    if (!(await deliveries.savePreset(wanted))) return;
    chosen = wanted;
    notices.news(`Delivery preset "${wanted}" is saved.`);
  }
</script>

<div class="row">
  <span class="box">
    <ComboBox
      size="xs"
      labelText="Preset"
      placeholder="choose, or type to find"
      {items}
      selectedId={current?.name}
      shouldFilterItem={(item, value) => !value || item.text.toLowerCase().includes(value.toLowerCase())}
      on:select={({ detail }) => choose(String(detail.selectedId))}
    />
  </span>
  <span class="name">
    <TextInput size="xs" labelText="Save these settings as" maxlength={80} bind:value={name} />
  </span>
  <Button kind="tertiary" size="small" disabled={name.trim() === ""} on:click={save}
    >{deliveries.saved.some((preset) => preset.name === name.trim()) ? "Save over" : "Save"}</Button
  >
  {#if own}
    <Button
      kind="ghost"
      size="small"
      icon={TrashCan}
      iconDescription="Delete preset {own.name}"
      on:click={() => deliveries.removePreset(own.id)}
    />
  {/if}
</div>

<style>
  .row {
    display: flex;
    align-items: end;
    gap: 8px;
  }

  .box {
    flex: 1;
    min-width: 0;
  }

  .name {
    width: 200px;
  }
</style>
