<!-- Names of the files, by a pattern, with what comes of it. -->
<script lang="ts">
  import { Button, TextInput } from "carbon-components-svelte";
  import { itemsOf, type Wanted } from "$lib/core/delivery/items";
  import { NAME_FIELDS, namesOf, patternFault } from "$lib/core/delivery/names";
  import { useEditor } from "../state/editor.svelte";

  let { wanted }: { wanted: Wanted } = $props();
  const { deliveries, session } = useEditor();
  const settings = $derived(deliveries.settings);
  const fault = $derived(patternFault(settings.pattern));
  /** So many names are shown. */
  const SHOWN = 3;
  const taken = $derived(
    deliveries.list.filter(({ kept, job }) => kept || job.endedAt === null).map(({ fileName }) => fileName)
  );
  const names = $derived(
    namesOf(session.document, itemsOf(session.document, wanted), settings, new Date(), taken)
  );
</script>

<div class="row">
  <span class="pattern">
    <TextInput
      size="xs"
      labelText="Names of the files"
      value={settings.pattern}
      invalid={fault !== undefined}
      invalidText={fault}
      maxlength={200}
      on:input={({ detail }) => deliveries.change({ pattern: String(detail ?? "") })}
    />
  </span>
  <span class="fields" role="group" aria-label="Fields of names">
    {#each Object.entries(NAME_FIELDS) as [field, help] (field)}
      <Button
        kind="ghost"
        size="small"
        title={help}
        aria-label={`Add the field ${field}: ${help}`}
        on:click={() => deliveries.change({ pattern: `${settings.pattern} {${field}}`.trim() })}
        >{`{${field}}`}</Button
      >
    {/each}
  </span>
</div>
{#if !fault && names.length > 0}
  <p class="example number" aria-label="Names that come of it">
    {names.slice(0, SHOWN).join("  ·  ")}{names.length > SHOWN ? `  · and ${names.length - SHOWN} more` : ""}
  </p>
{/if}

<style>
  .row {
    display: flex;
    align-items: end;
    gap: 8px;
  }

  .pattern {
    flex: 1;
    min-width: 220px;
  }

  .fields :global(button) {
    min-height: 24px;
    padding: 2px 5px;
    font-family: var(--w-mono);
    font-size: 11px;
  }

  .example {
    max-width: 100%;
    margin: 6px 0 0;
    overflow: hidden;
    font-size: 12px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
</style>
