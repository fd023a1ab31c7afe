<!-- One parameter: typed value and slider, choice, or switch. Dragging is heard at once and is one undo step. -->
<script lang="ts">
  import { Button, Checkbox, Dropdown, Select, SelectItem, Slider } from "carbon-components-svelte";
  import { recordingsByName } from "$lib/core/session/lookup";
  import type { Param, ParamValue } from "$lib/core/effects/description";
  import TypedField from "../../shared/TypedField.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import { parseValue, sliderOf, stepped, textOf, valueOfSlider } from "./scales";

  interface Props {
    param: Param;
    value: ParamValue;
    /** Heard while dragging, not kept. */
    draft: (value: ParamValue) => void;
    commit: (value: ParamValue) => boolean;
    /** Group name before the parameter's in accessible names. */
    prefix?: string;
    compact?: boolean;
    /** Whether it differs among the clips: what is set here is set in all. */
    mixed?: boolean;
  }

  let { param, value, draft, commit, prefix = "", compact = false, mixed = false }: Props = $props();
  const { session } = useEditor();
  let sliding = false;
  const MIXED = "\u0000mixed";

  /** Carbon's slider follows the value by itself as well: only what the user does is a change. */
  function slide(place: number): void {
    if (param.kind !== "number" || place === sliderOf(param, value as number)) return;
    sliding = true;
    draft(valueOfSlider(param, place));
  }

  function slid(place: number): void {
    if (param.kind !== "number" || !sliding) return;
    sliding = false;
    commit(valueOfSlider(param, place));
  }

  const name = $derived(prefix ? `${prefix}, ${param.name.toLowerCase()}` : param.name);
</script>

{#if param.kind === "number"}
  <div class="field" class:compact title={param.help}>
    {#if !compact}<span class="label" aria-hidden="true">{param.name}</span>{/if}
    <TypedField
      label={name}
      title={param.help}
      takes="{textOf(param, param.min)} to {textOf(param, param.max)}"
      text={mixed ? "mixed" : textOf(param, value as number)}
      width={compact ? "74px" : "84px"}
      commit={(text) => {
        const typed = parseValue(param, text);
        return typed !== undefined && commit(typed);
      }}
      step={(direction, fine) => commit(stepped(param, value as number, direction, fine))}
      reset={() => commit(param.default)}
    />
    {#if !compact}
      <span ondblclick={() => commit(param.default)} role="presentation">
        <Slider
          hideTextInput
          hideLabel
          fullWidth
          labelText="{name}, slider"
          min={0}
          max={1000}
          stepMultiplier={50}
          formatValue={() => textOf(param, value as number)}
          value={sliderOf(param, value as number)}
          on:input={({ detail }) => slide(detail)}
          on:change={({ detail }) => slid(detail)}
        />
      </span>
    {/if}
  </div>
{:else if param.kind === "choice"}
  <div class="field" class:compact title={param.help}>
    {#if !compact}<span class="label" aria-hidden="true">{param.name}</span>{/if}
    <span class="choice">
      <Select
        size="xs"
        hideLabel
        labelText={name}
        selected={mixed ? MIXED : (value as string)}
        on:update={({ detail }) => detail !== MIXED && (mixed || detail !== value) && commit(String(detail))}
      >
        {#if mixed}<SelectItem value={MIXED} text="mixed" disabled hidden />{/if}
        {#each param.choices as choice (choice.value)}<SelectItem
            value={choice.value}
            text={choice.label}
          />{/each}
      </Select>
    </span>
  </div>
{:else if param.kind === "recording"}
  <div class="field" title={param.help}>
    <span class="label" aria-hidden="true">{param.name}</span>
    <span class="wide">
      <Dropdown
        size="xs"
        hideLabel
        portalMenu
        labelText={name}
        items={[
          { id: "", text: "built-in" },
          ...recordingsByName(session.shown).map((recording) => ({ id: recording.id, text: recording.name }))
        ]}
        selectedId={value as string}
        on:select={({ detail }) => detail.selectedId !== value && commit(String(detail.selectedId))}
      />
    </span>
  </div>
{:else if param.kind === "data"}
  <div class="field" title={param.help}>
    <span class="label">{param.name}</span>
    <span class="wide">
      <span class="soft">{mixed ? "mixed" : value === "" ? "none yet" : "learnt"}</span>
      {#if value !== "" || mixed}<Button kind="tertiary" size="small" on:click={() => commit("")}
          >Forget</Button
        >{/if}
    </span>
  </div>
{:else}
  <div class="field check" class:compact title={param.help}>
    <Checkbox
      labelText={mixed ? `${name} (mixed)` : name}
      hideLabel={compact}
      indeterminate={mixed}
      checked={!mixed && (value as boolean)}
      on:check={({ detail }) => (mixed || detail !== value) && commit(detail)}
    />
  </div>
{/if}

<style>
  .field {
    display: grid;
    grid-template-columns: 104px 84px minmax(60px, 1fr);
    align-items: center;
    gap: 6px;
    min-height: 26px;
  }

  .field.compact {
    display: inline-flex;
    vertical-align: top;
    min-height: 22px;
  }

  .label,
  .wide {
    font-size: 12px;
  }

  .wide {
    grid-column: 2 / -1;
    min-width: 0;
  }

  .check {
    display: flex;
    grid-template-columns: auto 1fr;
    gap: 6px;
    font-size: 12px;
  }

  .choice :global(.bx--select) {
    width: auto;
  }

  .choice :global(select) {
    min-width: 84px;
    max-width: 100%;
  }

  .field:not(.compact) > .choice {
    grid-column: 2 / -1;
    justify-self: start;
    max-width: 100%;
  }
</style>
