<!-- The editor of fades: works on the fades of all selected clips, while they play. -->
<script lang="ts">
  import { Button, Checkbox, ComboBox, TextInput } from "carbon-components-svelte";
  import TrashCan from "carbon-icons-svelte/lib/TrashCan.svelte";
  import { JOINS } from "$lib/core/audio/envelope";
  import { FADE_CURVES, FADE_NAMES } from "$lib/core/audio/fades";
  import { alike } from "$lib/core/session/equal";
  import type { SingleCommand } from "$lib/core/session/commands";
  import { joinsWith, isCrossfade, type Join } from "$lib/core/session/joins";
  import type { Fade, FadeShape } from "$lib/core/session/schema";
  import { dbToGain, formatDb, gainToDb, parseDb } from "$lib/core/units/decibels";
  import { lengthOf, lengthText, takes } from "$lib/core/units/timeFormat";
  import Choice from "../../shared/Choice.svelte";
  import Picker from "../../shared/Picker.svelte";
  import TypedField from "../../shared/TypedField.svelte";
  import { setFade } from "../../state/editing";
  import { useEditor } from "../../state/editor.svelte";
  import BenchPanel from "./BenchPanel.svelte";
  import { otherCurve, withFadeBend, withFadePointAt, withJoin } from "../../state/fadeShapes";
  import { fadesCommand } from "../../state/shaping";
  import FadeCurve from "./FadeCurve.svelte";
  import RingOutField from "./RingOutField.svelte";

  const editor = useEditor();
  const { session, selection, preferences, sampleRate, fadePresets, clips } = editor;
  const CURVES = FADE_CURVES.map((id) => ({ id, name: FADE_NAMES[id] }));
  const WAYS = JOINS.map((id) => ({ id, name: id }));
  let edge = $state<"in" | "out">("in");
  let name = $state("");
  let chosen = $state<string | undefined>(undefined);

  const clip = $derived(selection.clip);
  const fade = $derived(clip && (edge === "in" ? clip.fadeIn : clip.fadeOut));
  const shape = $derived(fade?.shape ?? preferences.newFade);
  const count = $derived(selection.clipIds.length);

  /** As the fade was when it was opened here: what Revert goes back to. */
  let opened = $state.raw<{ key: string; fade: Fade } | undefined>(undefined);
  $effect(() => {
    const key = `${clip?.id ?? ""} ${edge}`;
    if (fade && opened?.key !== key) opened = { key, fade };
  });

  /** The crossfade that this fade is one side of. */
  const join = $derived(
    clip &&
      joinsWith(clips, clip).find(
        (one) => isCrossfade(one) && (edge === "in" ? one.right.id === clip.id : one.left.id === clip.id)
      )
  );
  /** What this fade is crossed with. */
  const crossed = $derived(join && (edge === "in" ? join.left : join.right).name);
  /** Whether both sides of a crossfade are shaped alike. */
  let both = $state(true);

  const timeAt = (share: number) => lengthText(share * (fade?.length ?? 0), sampleRate, preferences.time);

  /** Both fades of the crossfade with a shape. */
  function bothWith({ left, right }: Join, next: FadeShape): SingleCommand {
    return {
      type: "clip.fades",
      fades: [
        { clipId: left.id, edge: "out", fade: { ...left.fadeOut, shape: next } },
        { clipId: right.id, edge: "in", fade: { ...right.fadeIn, shape: next } }
      ]
    };
  }

  function make(next: FadeShape): void {
    if (join && both) session.run(bothWith(join, next));
    else setFade(editor, edge, { shape: next });
  }

  function spare(next: FadeShape | null): void {
    const all = selection.clipIds.flatMap((id) => session.document.get("clips", id) ?? []);
    if (next && join && both) session.draft(bothWith(join, next));
    else
      session.draft(
        next &&
          fadesCommand(all, edge, (one) => ({ ...(edge === "in" ? one.fadeIn : one.fadeOut), shape: next }))
      );
  }

  function setLength(text: string): boolean {
    const length = lengthOf(text, sampleRate, preferences.time);
    if (length === undefined) return false;
    if (join && length > 0) {
      const { left, right } = join;
      const shapes = { out: left.fadeOut.shape, into: right.fadeIn.shape };
      return session.run({
        type: "crossfade.set",
        pairs: [{ left: left.id, right: right.id, length, ...shapes }]
      });
    }
    setFade(editor, edge, { length });
    return true;
  }

  function setBend(text: string): boolean {
    const value = Number(text.replace(",", "."));
    if (!Number.isFinite(value) || Math.abs(value) > 10) return false;
    make(withFadeBend(shape, value));
    return true;
  }

  function setPointTime(index: number, text: string): boolean {
    const frames = lengthOf(text, sampleRate, preferences.time);
    const point = shape.points?.[index];
    if (frames === undefined || !fade || !point || frames > fade.length) return false;
    make(withFadePointAt(shape, index, frames / Math.max(1, fade.length), point.gain));
    return true;
  }

  function setPointGain(index: number, text: string): boolean {
    const db = /^\s*-?(∞|inf)/i.test(text) ? -Infinity : parseDb(text);
    const point = shape.points?.[index];
    if (db === undefined || db > 0 || !point) return false;
    make(withFadePointAt(shape, index, point.at, dbToGain(db)));
    return true;
  }

  function revert(): void {
    if (opened) setFade(editor, edge, { length: opened.fade.length, shape: opened.fade.shape });
  }

  function choose(id: string): void {
    chosen = id;
    const found = fadePresets.list.find((preset) => preset.id === id);
    if (found) make(found.shape);
  }

  async function save(): Promise<void> {
    if (name.trim() === "") return;
    const saved = await fadePresets.save(name.trim(), shape);
    if (saved) {
      chosen = saved;
      name = "";
    }
  }

  /** A preset stands in its field as long as the fade has its shape: then it can be chosen anew. */
  const current = $derived(
    fadePresets.list.find((preset) => preset.id === chosen && alike(preset.shape, shape))?.id
  );
  const items = $derived(fadePresets.list.map((preset) => ({ id: preset.id, text: preset.name })));
  let picker: HTMLInputElement | undefined = $state();
</script>

<BenchPanel label="Editor of fades" heading="Fades{count > 1 ? ` of ${count} clips, all alike` : ''}">
  {#snippet fields()}
    <Choice
      label="Which fade"
      items={[
        { id: "in", name: "in", title: "The fade at the start" },
        { id: "out", name: "out", title: "The fade at the end" }
      ]}
      value={edge}
      choose={(id) => (edge = id)}
    />
    <TypedField
      label="Length of the fade"
      takes={takes(preferences.time)}
      text={lengthText(fade?.length ?? 0, sampleRate, preferences.time)}
      width="86px"
      commit={setLength}
    />
    <Picker
      bare
      label="Curve of the fade"
      items={CURVES}
      value={shape.curve}
      choose={(curve) => make(otherCurve(shape, curve))}
    />
    <span class="soft">bend</span>
    <TypedField
      label="Bend of the fade"
      takes="-10 to 10"
      title="Pull the curve, or type: above 0 the sound comes earlier"
      text={(shape.bend ?? 0).toFixed(1)}
      width="52px"
      commit={setBend}
      step={(d, fine) => make(withFadeBend(shape, (shape.bend ?? 0) + d * (fine ? 0.1 : 1)))}
      reset={() => make(withFadeBend(shape, 0))}
    />
  {/snippet}
  <div class="row">
    <Button kind="tertiary" size="small" on:click={revert}>Revert</Button>
    <Button kind="tertiary" size="small" on:click={() => (preferences.newFade = shape)}
      >Use for new fades</Button
    >
    {#if crossed !== undefined}
      <Checkbox labelText="both sides" bind:checked={both} />
      <span class="soft"
        >crossed with {crossed}{#if shape.curve === "levelPower"}, power level for ρ = {(
            shape.correlation ?? 0
          ).toFixed(2)}{/if}</span
      >
    {/if}
  </div>
  <div class="sides">
    <div class="side">
      <FadeCurve {shape} {edge} {timeAt} {spare} {make} />
    </div>
    <div class="side">
      {#if shape.curve === "drawn"}
        <div class="points" role="group" aria-label="Points of the fade">
          <Picker
            bare
            label="Way between points"
            items={WAYS}
            value={shape.join ?? "smooth"}
            choose={(way) => make(withJoin(shape, way))}
          />
          {#each shape.points ?? [] as point, i (i)}
            <span class="point">
              <TypedField
                label="Time of point {i + 1}"
                takes="{takes(preferences.time)}, within the fade"
                text={timeAt(point.at)}
                width="76px"
                commit={(text) => setPointTime(i, text)}
              />
              <TypedField
                label="Gain of point {i + 1}"
                takes="0 dB or less"
                text="{formatDb(gainToDb(point.gain))} dB"
                width="76px"
                commit={(text) => setPointGain(i, text)}
              />
            </span>
          {/each}
        </div>
        <span class="soft">A click on the curve adds a point; Delete, or pulling it out, takes it away.</span>
      {:else}
        <span class="soft">Pull the curve up or down to bend it. A curve of your own: choose “drawn”.</span>
      {/if}
      <div class="row presets">
        <ComboBox
          size="xs"
          labelText="Fade preset"
          placeholder={items.length === 0 ? "none yet" : "choose"}
          {items}
          selectedId={current}
          shouldFilterItem={(item, value) => !value || item.text.toLowerCase().includes(value.toLowerCase())}
          on:select={({ detail }) => choose(String(detail.selectedId))}
        />
        <TextInput size="xs" labelText="Save this one as" maxlength={80} bind:value={name} />
        <Button kind="tertiary" size="small" disabled={name.trim() === ""} on:click={save}>Save</Button>
      </div>
      <div class="row">
        {#if chosen !== undefined && items.some((item) => item.id === chosen)}
          <Button
            kind="ghost"
            size="small"
            icon={TrashCan}
            iconDescription="Delete the fade preset"
            on:click={() => chosen !== undefined && fadePresets.remove(chosen)}
          />
        {/if}
        <Button kind="ghost" size="small" disabled={items.length === 0} on:click={() => fadePresets.toFile()}
          >To a file</Button
        >
        <Button kind="ghost" size="small" on:click={() => picker?.click()}>From a file…</Button>
        <input
          bind:this={picker}
          class="visually-hidden"
          type="file"
          accept=".json,application/json"
          tabindex="-1"
          aria-label="File with fade presets"
          onchange={(event) => {
            const [file] = event.currentTarget.files ?? [];
            if (file) fadePresets.fromFile(file);
            event.currentTarget.value = "";
          }}
        />
      </div>
      <div class="row"><span class="soft">The sound</span><RingOutField /></div>
    </div>
  </div>
</BenchPanel>

<style>
  .sides {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 16px;
  }

  .side {
    display: grid;
    flex: 1 1 280px;
    align-content: start;
    gap: 8px;
    min-width: 0;
  }

  .side:first-child {
    flex: 0 0 auto;
  }

  .row {
    display: flex;
    align-items: center;
    gap: 6px;
    min-width: 0;
  }

  .presets {
    align-items: end;
  }

  .presets > :global(*) {
    flex: 1;
    min-width: 0;
  }

  .presets > :global(.bx--btn) {
    flex: none;
  }

  .points {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 4px 8px;
  }

  .point {
    display: inline-flex;
    gap: 2px;
  }
</style>
