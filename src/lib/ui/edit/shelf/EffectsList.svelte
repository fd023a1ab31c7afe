<!-- All effects in their groups: pulled onto the bench or a clip, or added by their button. -->
<script lang="ts">
  import { EFFECT_GROUPS, type EffectGroup } from "$lib/core/effects/description";
  import { effects } from "$lib/core/effects/registry";
  import { useEditor } from "../../state/editor.svelte";
  import { pullEffect } from "../../state/pulledTreatment";
  import { addStep } from "../../state/steps";

  const editor = useEditor();
  const { selection } = editor;
  const groups = (Object.keys(EFFECT_GROUPS) as EffectGroup[]).flatMap((group) => {
    const own = effects.filter((effect) => effect.group === group);
    return own.length > 0 ? [{ group, name: EFFECT_GROUPS[group], own }] : [];
  });
</script>

<p class="soft hint">
  Pull one onto a clip or into the chain, or add it to what is on the bench: {selection.title}.
</p>
{#each groups as { group, name, own } (group)}
  <h3>{name}</h3>
  {#each own as effect (effect.id)}
    <div
      class="item"
      role="group"
      aria-label={effect.name}
      draggable="true"
      title={effect.help}
      ondragstart={(event) => pullEffect(event, effect.id)}
    >
      <span class="name">{effect.name}</span>
      <button
        class="bx--btn bx--btn--tertiary bx--btn--sm"
        aria-label="Add effect {effect.name}"
        onclick={() => addStep(editor, effect)}>Add</button
      >
    </div>
  {/each}
{/each}

<style>
  .hint {
    margin: 0 4px 4px;
  }

  h3 {
    margin: 6px 4px 2px;
    font-size: 12px;
    font-weight: 600;
  }

  .item {
    display: flex;
    align-items: center;
    gap: 4px;
    padding: 2px 2px 2px 8px;
    border-bottom: 1px solid var(--w-rule);
    cursor: grab;
  }

  .name {
    flex: 1;
  }
</style>
