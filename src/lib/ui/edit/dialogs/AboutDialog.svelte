<!-- What a recording is, where it is used, and what its file says of itself. -->
<script lang="ts">
  import { Button, Modal } from "carbon-components-svelte";
  import { videoText } from "$lib/core/session/pictures";
  import { descentOf } from "$lib/core/session/processes";
  import { formatDb } from "$lib/core/units/decibels";
  import { formatTime } from "$lib/core/units/time";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  const { session, selection, sampleRate } = editor;
  const recording = $derived(editor.asked);
  const about = $derived(recording?.about);
  const time = (frames: number) => formatTime(frames / sampleRate);
  const clips = $derived(
    [...session.shown.values("clips")]
      .filter((clip) => clip.content.recordingId === recording?.id)
      .sort((a, b) => a.start - b.start)
  );
  const close = () => (editor.dialog = null);

  /** Names of what it was made from, the oldest first. */
  const descent = $derived(
    recording ? descentOf(session.shown, recording.id).stages.map(({ name }) => name) : []
  );

  const facts = $derived.by(() => {
    if (!recording) return [];
    const { video, origin = null, note, loudness, file, format } = about ?? {};
    const channels = recording.channels === 1 ? "mono" : `${recording.channels} channels`;
    const known: (readonly [string, string | null | undefined])[] = [
      ["File", file],
      ["Format", format],
      ["Sound", `${time(recording.frames)}, ${channels}, ${recording.sampleRate / 1000} kHz`],
      ["Loudness", loudness === undefined || loudness === null ? null : `${formatDb(loudness)} LUFS`],
      ["Folder", recording.folder],
      ["Labels", recording.labels?.join(", ")],
      ["Made from", recording.provenance?.text],
      ["Descent", descent.length > 1 ? [...descent, recording.name].join(" → ") : null],
      ["Original time", origin === null ? null : formatTime(origin / recording.sampleRate)],
      ["Video", video ? videoText(video) : null],
      ["Not exact", note],
      ...Object.entries(about?.tags ?? {}).map(([name, value]) => [name, value] as const)
    ];
    return known.filter((one): one is readonly [string, string] => Boolean(one[1]));
  });

  function goTo(id: string, start: number): void {
    selection.choose(id);
    editor.goTo(start);
    close();
  }
</script>

<Modal
  open
  passiveModal
  size="sm"
  modalHeading={recording?.name ?? "The recording is no longer there"}
  on:close={close}
>
  <dl>
    {#each facts as [name, value] (name)}<dt>{name}</dt>
      <dd>{value}</dd>{/each}
  </dl>
  {#if about && about.markers.length > 0}
    <h4>Markers</h4>
    <ul class="number">
      {#each about.markers.slice(0, 100) as marker, i (i)}
        <li>{time(marker.start)} {marker.name}</li>
      {/each}
    </ul>
    <p class="soft">
      {clips.length > 0
        ? "“Make sections of the recording's markers” in its menu puts them on the timeline."
        : "Once the recording is on the timeline, its menu makes sections of them."}
    </p>
  {/if}
  <h4>
    {clips.length === 0 ? "No clip shows it" : clips.length === 1 ? "One clip" : `${clips.length} clips`}
  </h4>
  <div class="clips">
    {#each clips.slice(0, 100) as clip (clip.id)}
      <Button kind="ghost" size="small" on:click={() => goTo(clip.id, clip.start)}
        >{clip.name}, {time(clip.start)}</Button
      >
    {/each}
  </div>
</Modal>

<style>
  dl {
    display: grid;
    grid-template-columns: max-content 1fr;
    gap: 2px 16px;
    margin: 0;
    font-size: 13px;
  }

  dt {
    color: var(--w-soft);
  }

  dd {
    margin: 0;
    overflow-wrap: anywhere;
  }

  h4 {
    margin: 12px 0 4px;
    font-size: 13px;
    font-weight: 600;
  }

  ul {
    max-height: 160px;
    margin: 0;
    padding: 0;
    overflow-y: auto;
    list-style: none;
    font-size: 12px;
  }

  .clips {
    display: flex;
    flex-wrap: wrap;
    max-height: 120px;
    overflow-y: auto;
  }
</style>
