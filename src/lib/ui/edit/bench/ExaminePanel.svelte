<!-- What is wrong with the sound on the bench, where, and what mends it; and what becomes of it in mono. Nothing is applied by itself. -->
<script lang="ts">
  import { Button, ProgressBar, Tag } from "carbon-components-svelte";
  import { untrack } from "svelte";
  import { SvelteSet } from "svelte/reactivity";
  import { completeParams, effectOf } from "$lib/core/effects/registry";
  import type { Finding, FindingPlace } from "$lib/core/measure/examine/finding";
  import { placeOfRepair } from "$lib/core/session/repairs";
  import { formatDb } from "$lib/core/units/decibels";
  import { lengthText, placeText } from "$lib/core/units/timeFormat";
  import { notices } from "../../shared/notices.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import { addStep } from "../../state/steps";
  import BenchPanel from "./BenchPanel.svelte";

  const editor = useEditor();
  const { examination, selection, transport, preferences, sampleRate } = editor;
  /** As many places are offered to be heard. */
  const PLACES = 6;
  /** Seconds that are heard around a place. */
  const AROUND = 0.5;
  const mended = new SvelteSet<Finding>();
  const owner = $derived(`${selection.subject.owner.table} ${selection.subject.owner.id}`);

  $effect(() => {
    void owner;
    untrack(go);
  });

  function go(): void {
    mended.clear();
    examination.run(selection.subject).catch((error: unknown) => notices.fault(error));
  }

  function placeName({ from }: FindingPlace): string {
    const frame = Math.round(from * sampleRate);
    return examination.begin === null
      ? lengthText(frame, sampleRate, preferences.time)
      : placeText(examination.begin + frame, sampleRate, preferences.time);
  }

  function hear({ from, to }: FindingPlace): void {
    const { begin } = examination;
    if (begin === null) return;
    const at = (seconds: number) => begin + Math.round(seconds * sampleRate);
    transport.playStretch(Math.max(0, at(from - AROUND)), at(to + AROUND));
  }

  function mend(finding: Finding): void {
    if (!finding.step) return;
    const { effect, params } = finding.step;
    addStep(editor, effectOf(effect), params, {
      before: placeOfRepair(selection.subject.steps, effect),
      alone: true
    });
    mended.add(finding);
  }

  const stepName = ({ effect, params }: NonNullable<Finding["step"]>) => {
    const known = effectOf(effect);
    return `${known.name}: ${known.summary(completeParams(known, params))}`;
  };
  const hertz = (value: number) => `${Math.round(value)} Hz`;
  const mono = $derived(examination.mono);
</script>

<BenchPanel label="Findings" heading="Examine {selection.subject.name}">
  {#snippet fields()}
    <span class="soft">
      {examination.partly ? "the selected range" : "all of it"}, as it comes to the chain
    </span>
    <Button kind="tertiary" size="small" disabled={examination.progress !== null} on:click={go}
      >Examine again</Button
    >
  {/snippet}
  {#if examination.progress !== null}
    <ProgressBar
      size="sm"
      value={examination.progress * 100}
      labelText="Listening…"
      helperText="{Math.round(examination.progress * 100)} %"
    />
  {/if}
  {#if examination.findings}
    <ul>
      {#each examination.findings as finding (finding)}
        <li>
          <Tag size="sm" type="outline">{finding.certainty}</Tag>
          <span class="text">
            {finding.text}
            {#each finding.places.slice(0, PLACES) as place, i (i)}
              {#if examination.begin !== null}
                <button
                  class="place number"
                  title="Hear it"
                  aria-label="Hear it at {placeName(place)}"
                  onclick={() => hear(place)}>{placeName(place)}</button
                >
              {:else}<span class="number">{placeName(place)}</span>{/if}
            {/each}
            {#if finding.places.length > PLACES}<span class="soft">and more</span>{/if}
          </span>
          {#if finding.step}
            <Button
              kind="tertiary"
              size="small"
              disabled={mended.has(finding)}
              title="Adds {stepName(finding.step)}"
              on:click={() => mend(finding)}
              >{mended.has(finding) ? "added" : `Add ${stepName(finding.step)}`}</Button
            >
          {:else}<span class="soft">nothing here mends it</span>{/if}
        </li>
      {:else}<li>Nothing was found.</li>{/each}
    </ul>
  {/if}
  {#if mono}
    <h3>In mono, as it leaves the chain</h3>
    <p>
      {#if mono.correlation === null}One side is silent.
      {:else}Correlation <span class="number">{formatDb(mono.correlation, 2, true)}</span>.{/if}
      {#if mono.lossLu === null}In mono <strong>nothing is left</strong>: the sides cancel.
      {:else}It loses <span class="number">{formatDb(Math.abs(mono.lossLu))} LU</span>.{/if}
      {#if mono.cancelled}
        From <span class="number">{hertz(mono.cancelled.from)}</span> to
        <span class="number">{hertz(mono.cancelled.to)}</span> the sides cancel:
        <span class="number">{formatDb(mono.cancelled.lossDb)} dB</span>.
      {:else if mono.lossLu !== null}No band is cancelled.{/if}
    </p>
  {/if}
</BenchPanel>

<style>
  ul {
    margin: 0 0 8px;
    padding: 0;
    list-style: none;
  }

  li {
    display: flex;
    align-items: center;
    gap: 8px;
    min-height: 30px;
    border-bottom: 1px solid var(--w-rule);
  }

  .text {
    flex: 1;
  }

  .place {
    margin-left: 4px;
    padding: 0 4px;
    border: 1px solid var(--w-rule);
    background: var(--w-paper);
    color: var(--w-ink);
    font-size: 12px;
    cursor: pointer;
  }

  li > :global(.bx--btn) {
    flex: none;
    max-width: 45%;
    overflow: hidden;
    text-overflow: ellipsis;
  }

  h3 {
    margin: 8px 0 2px;
    font-size: 12px;
    font-weight: 600;
  }

  p {
    margin: 0;
  }
</style>
