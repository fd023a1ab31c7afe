<!-- "Add a step": type a few letters, choose with the arrow keys, Enter adds. -->
<script lang="ts">
  import { ComboBox } from "carbon-components-svelte";
  import { tick } from "svelte";
  import { effectOf, effects, searchEffects } from "$lib/core/effects/registry";
  import { notices } from "../../shared/notices.svelte";
  import { addStep } from "../../state/editing";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  const items = effects.map(({ id, name, help }) => ({ id, text: name, help }));
  /** Room above the list, for the page's top line. */
  const ABOVE = 60;
  const LEAST_WIDTH = 460;

  let typed = $state("");
  /** Counts steps that were added: the field is a fresh one for each. */
  let added = $state(0);
  let field: HTMLElement | undefined = $state();
  /** Where the list lies: over the timeline, above the field, so that the bench need not be tall. */
  let place = $state({ left: 0, bottom: 0, width: 0, height: 0 });

  /** The best first, as the search orders them. */
  const found = $derived(typed.trim() === "" ? effects : searchEffects(typed));
  const order = $derived(found.flatMap((effect) => items.find((item) => item.id === effect.id) ?? []));

  function put(): void {
    const box = field?.getBoundingClientRect();
    if (!box) return;
    place = {
      left: box.left,
      bottom: window.innerHeight - box.top + 2,
      width: Math.max(LEAST_WIDTH, box.width),
      height: box.top - ABOVE
    };
  }

  async function add(id: string): Promise<void> {
    // After Carbon has dealt with its own choice.
    await tick();
    addStep(editor, effectOf(id));
    typed = "";
    added++;
    await tick();
    // On to the new step: keys are its own now, not those of the field.
    document.querySelector<HTMLElement>(`[data-step="${editor.selection.stepId}"]`)?.focus();
  }
</script>

<div
  class="add"
  bind:this={field}
  onfocusin={put}
  style:--left="{place.left}px"
  style:--bottom="{place.bottom}px"
  style:--width="{place.width}px"
  style:--most="{place.height}px"
>
  {#key added}
    <ComboBox
      size="xs"
      direction="top"
      hideLabel
      labelText="Add a step"
      placeholder="+ add a step: type a few letters"
      items={order}
      autoHighlight="first-match"
      bind:value={typed}
      shouldFilterItem={() => true}
      on:select={({ detail }) => {
        add(String(detail.selectedId)).catch((error: unknown) => notices.fault(error));
      }}
      let:item
    >
      <span class="choice"><strong>{item.text}</strong> <span class="soft">{item.help}</span></span>
    </ComboBox>
  {/key}
</div>

<style>
  .add {
    margin: 6px 8px 0 22px;
  }

  .add :global(.bx--list-box__menu) {
    position: fixed;
    top: auto;
    bottom: var(--bottom);
    left: var(--left);
    width: var(--width);
    max-height: var(--most) !important;
  }

  .choice {
    font-size: 12px;
  }
</style>
