<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import Play from "carbon-icons-svelte/lib/PlayFilledAlt.svelte";
  import Repeat from "carbon-icons-svelte/lib/Repeat.svelte";
  import RowCollapse from "carbon-icons-svelte/lib/RowCollapse.svelte";
  import RowExpand from "carbon-icons-svelte/lib/RowExpand.svelte";
  import SkipBack from "carbon-icons-svelte/lib/SkipBackFilled.svelte";
  import Stop from "carbon-icons-svelte/lib/StopFilledAlt.svelte";
  import ZoomFit from "carbon-icons-svelte/lib/FitToWidth.svelte";
  import ZoomIn from "carbon-icons-svelte/lib/ZoomIn.svelte";
  import ZoomOut from "carbon-icons-svelte/lib/ZoomOut.svelte";
  import { formatDb } from "$lib/core/units/decibels";
  import { lengthOf, lengthText, placeOf, placeText, takes } from "$lib/core/units/timeFormat";
  import TypedField from "../shared/TypedField.svelte";
  import { useEditor } from "../state/editor.svelte";
  import MonitorFields from "./MonitorFields.svelte";

  const editor = useEditor();
  const { transport, selection, view, sampleRate, preferences } = editor;
  const { range } = $derived({ range: selection.range });

  const frames = (text: string) => placeOf(text, sampleRate, preferences.time);
  const place = (frame: number) => placeText(frame, sampleRate, preferences.time);
  const typed = $derived(takes(preferences.time));

  function locate(text: string): boolean {
    const at = frames(text);
    if (at !== undefined) editor.goTo(at);
    return at !== undefined;
  }

  /** An emptied field of the range takes the range away. */
  function cleared(text: string): boolean {
    if (text.trim() !== "") return false;
    selection.range = null;
    return true;
  }

  function setFrom(text: string): boolean {
    if (cleared(text)) return true;
    const from = frames(text);
    if (from === undefined) return false;
    selection.range = { ...range, from, to: range && range.to > from ? range.to : from + sampleRate };
    return true;
  }

  function setTo(text: string): boolean {
    if (cleared(text)) return true;
    const to = frames(text);
    if (to === undefined || to <= (range?.from ?? 0)) return false;
    selection.range = { ...range, from: range?.from ?? 0, to };
    return true;
  }

  function setLength(text: string): boolean {
    if (cleared(text)) return true;
    const length = lengthOf(text, sampleRate, preferences.time);
    if (length === undefined || length < 1) return false;
    const from = range?.from ?? Math.round(transport.position);
    selection.range = { ...range, from, to: from + length };
    return true;
  }

  const meters = $derived([
    { short: "M", name: "Momentary loudness", unit: "LUFS", value: transport.levels.momentary },
    { short: "S", name: "Short-term loudness", unit: "LUFS", value: transport.levels.shortTerm },
    { short: "I", name: "Integrated loudness", unit: "LUFS", value: transport.levels.integrated },
    { short: "TP", name: "True peak", unit: "dBTP", value: transport.levels.truePeak }
  ]);
  // -54 LUFS at the left end, 0 at the right.
  const share = (db: number) => Math.max(0, Math.min(1, (db + 54) / 54));
</script>

<div class="line" role="toolbar" aria-label="Transport">
  <Button
    kind="tertiary"
    size="small"
    icon={SkipBack}
    iconDescription="Go to the start (Home)"
    on:click={() => editor.goTo(0)}
  />
  <Button
    kind="tertiary"
    size="small"
    icon={transport.playing ? Stop : Play}
    class="play"
    iconDescription={transport.playing ? "Stop (Space)" : "Play (Space)"}
    on:click={() => transport.toggle()}
  />
  <Button
    kind="tertiary"
    size="small"
    icon={Repeat}
    aria-pressed={transport.looping}
    iconDescription="Loop the range (Shift Space)"
    on:click={() => (transport.looping = !transport.looping)}
  />
  <TypedField
    label="Position"
    takes={typed}
    text={place(transport.position)}
    width="96px"
    commit={locate}
    leaves
    title="Position: type a time"
  />
  <span class="soft">range</span>
  <TypedField
    label="Range from"
    takes={typed}
    text={range ? place(range.from) : "–"}
    width="90px"
    commit={setFrom}
    leaves
  />
  <span class="soft" aria-hidden="true">to</span>
  <TypedField
    label="Range to"
    takes="{typed}, after the range's start"
    text={range ? place(range.to) : "–"}
    width="90px"
    commit={setTo}
    leaves
  />
  <TypedField
    label="Range length"
    takes={typed}
    text={range ? lengthText(range.to - range.from, sampleRate, preferences.time) : "–"}
    width="82px"
    commit={setLength}
    leaves
  />
  <span class="gap"></span>
  {#if transport.preparing !== null}
    <span class="soft" role="status" title="A step must hear its whole clip before it can sound"
      >preparing {Math.round(transport.preparing * 100)} %</span
    >
  {:else if transport.computing.size > 0}
    <span
      class="soft"
      role="status"
      title="{transport.computing.size} changed clip{transport.computing.size === 1
        ? ' is'
        : 's are'} computed as a whole; until then it sounds as before"
      >computing {Math.round(transport.computed * 100)} %</span
    >
  {/if}
  <MonitorFields />
  <div class="meters" role="group" aria-label="Live loudness">
    {#each meters as meter (meter.short)}
      <span class="meter" title="{meter.name} in {meter.unit}" data-meter={meter.short}>
        <span class="tag" aria-hidden="true">{meter.short}</span>
        <span class="number value" aria-label="{meter.name}: {formatDb(meter.value)} {meter.unit}" role="img"
          >{formatDb(meter.value)}</span
        >
        <span
          class="bar"
          class:hot={meter.value > -1}
          class:warm={meter.value > -9 && meter.value <= -1}
          aria-hidden="true"><span style:width="{share(meter.value) * 100}%"></span></span
        >
      </span>
    {/each}
    <span class="soft unit">LUFS · dBTP</span>
  </div>
  <span class="zoom" role="group" aria-label="Zoom">
    <Button
      kind="ghost"
      size="small"
      icon={RowCollapse}
      iconDescription="Draw waveforms lower"
      on:click={() => view.taller(0.5)}
    />
    <Button
      kind="ghost"
      size="small"
      icon={RowExpand}
      iconDescription="Draw waveforms taller{view.height > 1 ? `, now ×${view.height}` : ''}"
      on:click={() => view.taller(2)}
    />
    <Button
      kind="ghost"
      size="small"
      icon={ZoomOut}
      iconDescription="Zoom out (-)"
      on:click={() => view.zoom(0.5)}
    />
    <Button
      kind="ghost"
      size="small"
      icon={ZoomFit}
      iconDescription="Show the whole programme (A)"
      tooltipAlignment="end"
      on:click={() => editor.showAll()}
    />
    <Button
      kind="ghost"
      size="small"
      icon={ZoomIn}
      iconDescription="Zoom in (+)"
      tooltipAlignment="end"
      on:click={() => view.zoom(2)}
    />
  </span>
</div>

<style>
  .line {
    display: flex;
    align-items: center;
    gap: 6px;
    height: 42px;
    padding: 0 10px;
    border-block: 1px solid var(--w-rule);
    background: var(--w-panel);
  }

  .line :global(.play.bx--btn) {
    width: 40px;
  }

  .gap {
    flex: 1;
  }

  .meters {
    display: flex;
    align-items: center;
    gap: 10px;
  }

  .meter {
    display: grid;
    grid-template: 18px 4px / auto 44px;
    column-gap: 5px;
    align-items: center;
  }

  .tag {
    font-size: 12px;
    font-weight: 600;
    color: var(--w-soft);
  }

  .value {
    font-size: 13px;
    text-align: right;
  }

  .bar {
    grid-column: 1 / -1;
    height: 4px;
    background: var(--w-sunk);
  }

  .bar span {
    display: block;
    height: 100%;
    background: var(--w-slate);
  }

  .bar.warm span {
    background: var(--w-ochre);
  }

  .bar.hot span {
    background: var(--w-madder);
  }

  .unit {
    font-size: 12px;
  }

  .zoom {
    display: flex;
  }
</style>
