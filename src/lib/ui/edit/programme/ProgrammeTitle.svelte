<!-- What the programme measures, against the target that it is made for. -->
<script lang="ts">
  import { Select, SelectItem, Tag } from "carbon-components-svelte";
  import { formatDb } from "$lib/core/units/decibels";
  import { formatTime } from "$lib/core/units/time";
  import { useEditor } from "../../state/editor.svelte";
  import { TARGETS, verdict, type Target } from "./targets";

  let { target = $bindable() }: { target: Target } = $props();
  const editor = useEditor();
  const { analysis, selection, session, sampleRate } = editor;

  const m = $derived(analysis.output);
  const judged = $derived(m && verdict(target, m.integratedLufs, m.truePeakDbtp));
  const values = $derived(
    m
      ? [
          { name: "I", text: `${formatDb(m.integratedLufs)} LUFS`, title: "Integrated loudness" },
          {
            name: "LRA",
            text: Number.isFinite(m.loudnessRangeLu) ? `${m.loudnessRangeLu.toFixed(1)} LU` : "–",
            title: "Loudness range"
          },
          {
            name: "max S",
            text: formatDb(m.shortTermMaxLufs),
            title: "Largest short-term loudness, LUFS",
            spare: true
          },
          { name: "TP", text: `${formatDb(m.truePeakDbtp)} dBTP`, title: "True peak" }
        ]
      : []
  );
  const what = $derived(
    selection.range
      ? `${formatTime(selection.range.from / sampleRate)} to ${formatTime(selection.range.to / sampleRate)}`
      : "nothing is selected: this is the mix"
  );
</script>

<h2>The programme</h2>
<span class="soft what" class:spare={!selection.range}>{what}</span>
<dl aria-label="Levels of the mix">
  {#each values as { name, text, title, spare } (name)}
    <div {title} class:spare>
      <dt class="soft">{name}</dt>
      <dd class="number">{text}</dd>
    </div>
  {/each}
</dl>
{#if analysis.progress < 1}
  <span class="soft number" role="status">{Math.round(analysis.progress * 100)} %</span>
{/if}
<Select
  inline
  size="xs"
  hideLabel
  labelText="Target"
  selected={target.id}
  on:update={({ detail }) => (target = TARGETS.find((t) => t.id === detail) ?? target)}
>
  {#each TARGETS as { id, name } (id)}<SelectItem value={id} text={name} />{/each}
</Select>
{#if judged && session.shown.size("clips") > 0}
  <span class="verdict" class:fails={!judged.passes}>
    <Tag size="sm" type="outline">{judged.passes ? "" : "fails: "}{judged.text}</Tag>
  </span>
{/if}
<span class="gap"></span>

<style>
  h2 {
    margin: 0;
    font-size: 15px;
    font-weight: 600;
    white-space: nowrap;
  }

  .what {
    overflow: hidden;
    text-overflow: ellipsis;
  }

  dl {
    display: flex;
    flex: none;
    gap: 14px;
    margin: 0 4px;
  }

  dl div {
    display: flex;
    gap: 5px;
  }

  dt,
  dd {
    margin: 0;
  }

  /* Where there is no room for all. */
  @media (max-width: 1400px) {
    .spare {
      display: none;
    }
  }

  .verdict {
    flex: none;
  }

  .fails :global(.bx--tag) {
    outline-color: var(--w-madder);
    color: var(--w-madder);
  }

  .gap {
    flex: 1;
  }
</style>
