<!-- The points of a line, typed: a clip's gain, a track's gain or pan. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import Add from "carbon-icons-svelte/lib/Add.svelte";
  import TrashCan from "carbon-icons-svelte/lib/TrashCan.svelte";
  import { JOINS } from "$lib/core/audio/envelope";
  import type { GainLine } from "$lib/core/session/schema";
  import { placeOf, placeText, takes } from "$lib/core/units/timeFormat";
  import Choice from "../../shared/Choice.svelte";
  import Picker from "../../shared/Picker.svelte";
  import TypedField from "../../shared/TypedField.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import BenchPanel from "./BenchPanel.svelte";
  import {
    limitsOf,
    lineOf,
    lineOrigin,
    setLine,
    valueOf,
    valueText,
    withBend,
    withMoved,
    withoutPoint,
    withPoint,
    type LineOwner
  } from "../../state/gainLines";
  import { trackOf } from "../../state/target";

  const editor = useEditor();
  const { session, selection, preferences, sampleRate, transport } = editor;
  const WAYS = JOINS.map((id) => ({ id, name: id }));
  let kind = $state<"gain" | "pan">("gain");

  const owner = $derived.by((): LineOwner | undefined => {
    const { clip } = selection;
    if (clip) return { kind: "clip", clip };
    const track = trackOf(editor);
    return track && { kind, track };
  });
  const line = $derived(owner && lineOf(owner));
  const origin = $derived(owner ? lineOrigin(owner) : 0);
  const name = $derived(owner ? (owner.kind === "clip" ? owner.clip.name : owner.track.name) : "");
  const what = $derived(owner?.kind === "pan" ? "Pan" : "Gain");

  const make = (next: GainLine | null) => owner !== undefined && session.run(setLine(owner, next));

  function setTime(index: number, text: string): boolean {
    const frame = placeOf(text, sampleRate, preferences.time);
    const point = line?.points[index];
    if (frame === undefined || !owner || !line || !point) return false;
    return make(withMoved(owner, line, index, frame + origin, point.value));
  }

  function setValue(index: number, text: string): boolean {
    const point = line?.points[index];
    const value = owner && valueOf(owner, text);
    if (value === undefined || !owner || !line || !point) return false;
    const { least, most } = limitsOf(owner);
    return value >= least && value <= most && make(withMoved(owner, line, index, point.at, value));
  }

  function setBend(index: number, text: string): boolean {
    const bend = Number(text.replace(",", "."));
    return text.trim() !== "" && Math.abs(bend) <= 10 && !!line && make(withBend(line, index, bend));
  }

  function add(): void {
    if (owner) make(withPoint(owner, Math.round(transport.position) + origin));
  }
</script>

<BenchPanel label="Points of the line" heading="{what} line{name ? ` of ${name}` : ''}">
  {#snippet fields()}
    {#if owner && owner.kind !== "clip"}
      <Choice
        label="Which line"
        items={[
          { id: "gain", name: "gain", title: "The track's gain over time" },
          { id: "pan", name: "pan", title: "The track's pan over time" }
        ]}
        value={kind}
        choose={(id) => (kind = id)}
      />
    {/if}
    {#if line}
      <Picker
        bare
        label="Way between points"
        items={WAYS}
        value={line.join}
        choose={(join) => make({ ...line, join })}
      />
    {/if}
    <Button kind="tertiary" size="small" icon={Add} disabled={!owner} on:click={add}
      >Point at the playhead</Button
    >
    {#if line}<Button kind="ghost" size="small" on:click={() => make(null)}>Remove the line</Button>{/if}
  {/snippet}
  {#if !line}
    <p class="soft">
      There is no line yet. Put the playhead somewhere and add a point, or double click the line over the
      waveform.
    </p>
  {:else}
    <table>
      <thead><tr><th>time</th><th>{what.toLowerCase()}</th><th>bend of the way on</th><td></td></tr></thead>
      <tbody>
        {#each line.points as point, i (i)}
          <tr>
            <td
              ><TypedField
                label="Time of point {i + 1}"
                takes={takes(preferences.time)}
                text={placeText(point.at - origin, sampleRate, preferences.time)}
                width="104px"
                commit={(text) => setTime(i, text)}
              /></td
            >
            <td
              ><TypedField
                label="{what} of point {i + 1}"
                takes={owner?.kind === "pan" ? "L100 to R100, or C" : "-96 to 24 dB"}
                text={owner ? valueText(owner, point.value) : ""}
                width="84px"
                commit={(text) => setValue(i, text)}
              /></td
            >
            <td
              >{#if i < line.points.length - 1 && line.join === "straight"}<TypedField
                  label="Bend behind point {i + 1}"
                  takes="-10 to 10"
                  text={(point.bend ?? 0).toFixed(1)}
                  width="60px"
                  commit={(text) => setBend(i, text)}
                />{/if}</td
            >
            <td
              ><Button
                kind="ghost"
                size="small"
                icon={TrashCan}
                iconDescription="Remove point {i + 1}"
                on:click={() => make(withoutPoint(line, i))}
              /></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</BenchPanel>

<style>
  th {
    padding: 2px 8px 2px 0;
    color: var(--w-soft);
    font-weight: 400;
    text-align: left;
  }

  td {
    padding: 1px 8px 1px 0;
  }
</style>
