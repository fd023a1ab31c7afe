<!-- "+ add a step": type a few letters, choose with the arrow keys, Enter adds. -->
<script lang="ts">
  import { effects, searchEffects } from "$lib/core/effects/registry";
  import { addStep } from "../../state/editing";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  let typed = $state("");
  let open = $state(false);
  let chosen = $state(0);
  let field: HTMLInputElement | undefined = $state();
  let list: HTMLDivElement | undefined = $state();
  /** Where the list lies: over the timeline, above the field, so that the bench need not be tall. */
  let place = $state({ left: 0, bottom: 0, width: 0, height: 0 });
  const found = $derived(typed.trim() === "" ? [...effects] : searchEffects(typed));

  function show(): void {
    const box = field?.getBoundingClientRect();
    if (box)
      place = {
        left: box.left,
        bottom: window.innerHeight - box.top + 2,
        width: Math.max(460, box.width),
        height: box.top - 60
      };
    open = true;
  }

  $effect(() => {
    if (open) list?.children[chosen]?.scrollIntoView({ block: "nearest" });
  });

  function add(index: number): void {
    const effect = found[index];
    if (!effect) return;
    addStep(editor, effect);
    typed = "";
    open = false;
    chosen = 0;
  }

  function onkeydown(event: KeyboardEvent): void {
    event.stopPropagation();
    if (event.key === "ArrowDown") chosen = Math.min(found.length - 1, chosen + 1);
    else if (event.key === "ArrowUp") chosen = Math.max(0, chosen - 1);
    else if (event.key === "Enter") add(chosen);
    else if (event.key === "Escape") {
      typed = "";
      open = false;
    } else return;
    event.preventDefault();
  }
</script>

<div class="add">
  <input
    class="typed"
    role="combobox"
    aria-label="Add a step"
    aria-expanded={open}
    aria-controls="step-choices"
    aria-autocomplete="list"
    aria-activedescendant={open && found[chosen] ? `step-choice-${found[chosen].id}` : undefined}
    placeholder="+ add a step: type a few letters"
    bind:this={field}
    bind:value={typed}
    onfocus={show}
    oninput={() => {
      show();
      chosen = 0;
    }}
    onblur={() => (open = false)}
    {onkeydown}
  />
  <div
    bind:this={list}
    class="choices"
    id="step-choices"
    role="listbox"
    aria-label="Effects"
    hidden={!open}
    style:left="{place.left}px"
    style:bottom="{place.bottom}px"
    style:width="{place.width}px"
    style:max-height="{place.height}px"
  >
    {#each found as effect, i (effect.id)}
      <!-- svelte-ignore a11y_click_events_have_key_events -->
      <div
        id="step-choice-{effect.id}"
        class="choice"
        class:chosen={i === chosen}
        role="option"
        tabindex="-1"
        aria-selected={i === chosen}
        onmousedown={(event) => event.preventDefault()}
        onclick={() => add(i)}
      >
        <strong>{effect.name}</strong> <span class="soft">{effect.help}</span>
      </div>
    {:else}
      <p class="soft none">No effect is called "{typed}".</p>
    {/each}
  </div>
</div>

<style>
  .add {
    position: relative;
    padding: 6px 8px 0 22px;
  }

  input {
    width: 100%;
    font-family: var(--w-sans);
  }

  .choices {
    position: fixed;
    z-index: 20;
    overflow-y: auto;
    border: 1px solid var(--w-soft);
    background: var(--w-panel);
  }

  .choice {
    padding: 4px 8px;
    overflow: hidden;
    font-size: 12px;
    text-overflow: ellipsis;
    white-space: nowrap;
    cursor: pointer;
  }

  .choice.chosen {
    background: var(--w-select);
  }

  .none {
    margin: 6px 8px;
  }
</style>
