<!-- Kept states of the clip: heard, gone back to, put beside the present one, renamed, taken away. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import TrashCan from "carbon-icons-svelte/lib/TrashCan.svelte";
  import { alike } from "$lib/core/session/equal";
  import { recipeOf } from "$lib/core/session/clipState";
  import type { ResolvedClip } from "$lib/core/session/lookup";
  import { stepsText } from "$lib/core/session/renderNames";
  import type { Version } from "$lib/core/session/schema";
  import { formatDb } from "$lib/core/units/decibels";
  import { day } from "../../shared/day";
  import { notices } from "../../shared/notices.svelte";
  import TypedField from "../../shared/TypedField.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import { MOST_CANDIDATES } from "../../state/hearing.svelte";
  import { goBack, keepVersion, putBeside } from "../../state/versions";
  import BenchPanel from "./BenchPanel.svelte";

  let { clip }: { clip: ResolvedClip } = $props();
  const editor = useEditor();
  const { session, hearing } = editor;
  const versions = $derived([...(clip.versions ?? [])].reverse());
  const full = $derived(hearing.candidates.length >= MOST_CANDIDATES);
  const isNow = ({ steps, render }: Version) =>
    alike(steps, recipeOf(clip.steps)) &&
    (render?.recordingId ?? null) === (clip.render?.recordingId ?? null);
  const keyOf = (version: Version) => hearing.candidates.findIndex(({ name }) => name === version.name) + 1;

  function hear(version: Version): void {
    hearing.addVersion(version);
    const key = keyOf(version);
    if (key > 0) hearing.choose(key - 1);
  }
</script>

<BenchPanel label="Versions" heading="Versions of {clip.name}">
  {#snippet fields()}
    <Button
      kind="tertiary"
      size="small"
      on:click={() => keepVersion(editor, clip).catch((error: unknown) => notices.fault(error))}
      >Keep the present one</Button
    >
  {/snippet}
  <table>
    <caption class="visually-hidden">Versions</caption>
    <thead>
      <tr>
        <th scope="col">name</th><th scope="col">kept</th><th scope="col">steps</th><th scope="col">LUFS</th>
        <th scope="col"><span class="visually-hidden">actions</span></th>
      </tr>
    </thead>
    <tbody>
      {#each versions as version (version.id)}
        <tr class:now={isNow(version)}>
          <th scope="row">
            <TypedField
              label="Name of version {version.name}"
              takes="1 to 120 characters"
              text={version.name}
              width="150px"
              commit={(name) =>
                name.trim() !== "" &&
                session.run({ type: "version.set", clipId: clip.id, versionId: version.id, name })}
            />
          </th>
          <td title="{day(version.made)}{version.render ? ', rendered' : ''}"
            >{version.render ? "rendered " : ""}{day(version.made)}</td
          >
          <td class="steps" title={stepsText(version.steps)}>{stepsText(version.steps) || "none"}</td>
          <td class="number">{version.lufs === null ? "" : formatDb(version.lufs)}</td>
          <td class="acts">
            {#if isNow(version)}<span class="soft">as now</span>{:else}
              <Button
                kind="ghost"
                size="small"
                aria-label="Go back to {version.name}"
                on:click={() => goBack(editor, clip, version)}>Go back</Button
              >
            {/if}
            <Button
              kind="ghost"
              size="small"
              aria-label="Compare {version.name}"
              disabled={full && keyOf(version) === 0}
              title={full && keyOf(version) === 0
                ? "Four can be compared at once"
                : "Hear it as a candidate, equally loud"}
              on:click={() => hear(version)}
              >{keyOf(version) > 0 ? `Key ${keyOf(version)}` : "Compare"}</Button
            >
            <Button
              kind="ghost"
              size="small"
              aria-label="Put {version.name} on a track beside"
              title="On a track of its own below, at the same time"
              on:click={() => putBeside(editor, clip, version)}>Beside</Button
            >
            <Button
              kind="ghost"
              size="small"
              icon={TrashCan}
              iconDescription="Take {version.name} away"
              on:click={() => session.run({ type: "version.remove", clipId: clip.id, versionId: version.id })}
            />
          </td>
        </tr>
      {:else}
        <tr
          ><td colspan="5" class="soft"
            >None yet. Every render is kept here, and whatever you keep yourself.</td
          ></tr
        >
      {/each}
    </tbody>
  </table>
</BenchPanel>

<style>
  table {
    width: 100%;
    border-collapse: collapse;
  }

  th,
  td {
    padding: 1px 8px 1px 0;
    border-bottom: 1px solid var(--w-rule);
    text-align: left;
    white-space: nowrap;
  }

  thead th {
    color: var(--w-soft);
    font-weight: 400;
  }

  td:nth-child(2) {
    overflow: hidden;
    max-width: 120px;
    text-overflow: ellipsis;
  }

  .steps {
    overflow: hidden;
    max-width: 96px;
    text-overflow: ellipsis;
  }

  .now {
    background: var(--w-select);
    --w-soft: var(--w-ink);
  }

  .acts :global(.bx--btn) {
    min-width: 0;
    padding: 0 6px;
  }

  .acts {
    padding: 0;
    text-align: right;
  }
</style>
