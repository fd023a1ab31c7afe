<!-- Names of the files, by a pattern, with what comes of it. -->
<script lang="ts">
  import { Button, TextInput } from "carbon-components-svelte";
  import { itemsOf, videoEnding, type Wanted } from "$lib/core/delivery/items";
  import { distinct, fileNameOf, NAME_FIELDS, patternFault } from "$lib/core/delivery/names";
  import { useEditor } from "../state/editor.svelte";

  let { wanted }: { wanted: Wanted } = $props();
  const { deliveries, session, sampleRate } = useEditor();
  const settings = $derived(deliveries.settings);
  const fault = $derived(
    settings.pattern.trim() === "" ? "A name is needed." : patternFault(settings.pattern)
  );
  /** So many names are shown. */
  const SHOWN = 3;
  const names = $derived.by(() => {
    const items = itemsOf(session.document, wanted);
    return distinct(
      items.map((item, i) =>
        fileNameOf(
          settings,
          {
            project: session.shown.name,
            name: item.name,
            number: i + 1,
            count: items.length,
            date: new Date(),
            projectRate: sampleRate
          },
          videoEnding(session.document, item)
        )
      ),
      deliveries.list.filter(({ kept, job }) => kept || job.endedAt === null).map(({ fileName }) => fileName)
    );
  });
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
