<!-- "Add a step": type a few letters, or look through the groups; arrow keys choose, Enter adds. The same field replaces a step. -->
<script lang="ts">
  import { Button, ComboBox } from "carbon-components-svelte";
  import { tick } from "svelte";
  import { effectOf } from "$lib/core/effects/registry";
  import { notices } from "../../shared/notices.svelte";
  import { applyPreset } from "../../state/editing";
  import { useEditor } from "../../state/editor.svelte";
  import { addStep, replaceRow } from "../../state/steps";
  import { allChoices, searchChoices, type Choice } from "./choices";

  const editor = useEditor();
  const { selection, presets } = editor;
  /** Room above the list, for the page's top line. */
  const ABOVE = 60;
  const LEAST_WIDTH = 460;

  let typed = $state("");
  /** Counts steps that were added: the field is a fresh one for each. */
  let added = $state(0);
  let field: HTMLElement | undefined = $state();
  /** Where the list lies: over the timeline, above the field, so that the bench need not be tall. */
  let place = $state({ left: 0, bottom: 0, width: 0, height: 0 });

  const replaced = $derived(editor.replacing ? selection.row : undefined);
  const label = $derived(replaced ? `Replace ${effectOf(replaced.step.effect).name} by` : "Add a step");
  const found = $derived(typed.trim() === "" ? allChoices(presets.list) : searchChoices(typed, presets.list));
  // In the place of a step stands a step, no chain.
  const order = $derived(replaced ? found.filter(({ kind }) => kind === "effect") : found);
  const headings = $derived(
    new Map(
      order.flatMap((c, i) => (order[i - 1]?.heading === c.heading ? [] : [[c.id, c.heading] as const]))
    )
  );

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

  $effect(() => {
    if (replaced) field?.querySelector("input")?.focus();
  });

  function take(choice: Choice): void {
    if (choice.kind === "chain") applyPreset(editor, choice.preset);
    else if (replaced) replaceRow(editor, replaced, choice.effect);
    else addStep(editor, choice.effect, choice.params);
    editor.replacing = false;
  }

  async function add(id: string): Promise<void> {
    // After Carbon has dealt with its own choice.
    await tick();
    const choice = order.find((one) => one.id === id);
    if (!choice) return;
    take(choice);
    typed = "";
    added++;
    await tick();
    // On to the new step: keys are its own now, not those of the field.
    document.querySelector<HTMLElement>(`[data-step="${selection.row?.step.id ?? ""}"]`)?.focus();
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
      labelText={label}
      placeholder={replaced ? `${label}…` : "+ add a step: type a few letters, or look through the list"}
      items={order}
      autoHighlight="first-match"
      bind:value={typed}
      shouldFilterItem={() => true}
      on:select={({ detail }) => {
        add(String(detail.selectedId)).catch((error: unknown) => notices.fault(error));
      }}
      let:item
    >
      <span class="choice">
        {#if headings.has(item.id)}<span class="heading" aria-hidden="true">{headings.get(item.id)}</span
          >{/if}
        <strong>{item.text}</strong>
        <span class="soft">{item.help}</span>
      </span>
    </ComboBox>
  {/key}
  {#if replaced}<Button kind="ghost" size="small" on:click={() => (editor.replacing = false)}>Cancel</Button
    >{/if}
</div>

<style>
  .add {
    display: flex;
    gap: 4px;
    margin: 6px 8px 0 22px;
  }

  .add :global(.bx--list-box__wrapper) {
    flex: 1;
    min-width: 0;
  }

  .add :global(.bx--list-box__menu) {
    position: fixed;
    top: auto;
    bottom: var(--bottom);
    left: var(--left);
    width: var(--width);
    max-height: var(--most) !important;
  }

  .add :global(.bx--list-box__menu-item),
  .add :global(.bx--list-box__menu-item__option) {
    height: auto;
    min-height: 24px;
  }

  .choice {
    font-size: 12px;
  }

  .heading {
    display: block;
    margin-top: 4px;
    color: var(--w-soft);
    font-weight: 600;
    line-height: 18px;
  }
</style>
