<!-- Files that were ordered: under way, done with what they measure, or refused. -->
<script lang="ts">
  import { Button, Link, ProgressBar } from "carbon-components-svelte";
  import Download from "carbon-icons-svelte/lib/Download.svelte";
  import type { DeliveryView } from "$lib/api/delivery";
  import { EXPORT_DAYS } from "$lib/api/exportDays";
  import { formatDb } from "$lib/core/units/decibels";
  import { formatTime } from "$lib/core/units/time";
  import { useEditor } from "../state/editor.svelte";

  const { deliveries, session } = useEditor();
  const open = $derived(deliveries.list.filter(({ job }) => job.endedAt === null));
  const kept = $derived(deliveries.list.filter((one) => one.kept));
  const done = $derived(
    open.length === 0 ? 1 : open.reduce((sum, { job }) => sum + job.progress, 0) / open.length
  );
  const archive = $derived(
    `/api/projects/${session.projectId}/deliveries/files?${kept.map(({ job }) => `job=${job.id}`).join("&")}`
  );

  const db = (value: number | null, unit: string) => (value === null ? "–" : `${formatDb(value)} ${unit}`);

  /** What there is to be said of a file beside its levels. */
  function remarks({ delivered }: DeliveryView): string[] {
    if (!delivered) return [];
    const { gainDb, shortDb, overshootDb, rounds, lossy, ceilingDbtp, measurement, broken } = delivered;
    const said: string[] = [];
    if (Math.abs(gainDb) >= 0.05) said.push(`gain ${formatDb(gainDb, 1, true)} dB`);
    if (lossy && overshootDb !== null && overshootDb >= 0.05)
      said.push(`coding raised the peak by ${formatDb(overshootDb, 1)} dB`);
    if (shortDb > 0)
      said.push(
        `${formatDb(shortDb, 1)} dB short of its level: the ceiling came first; a limiter on the mix makes room`
      );
    if (rounds > 1) said.push(`coded ${rounds} times until its level and ceiling held`);
    const peak = measurement.truePeakDbtp;
    if (ceilingDbtp !== null && peak !== null && peak > ceilingDbtp + 0.05)
      said.push(`its ceiling of ${formatDb(ceilingDbtp)} dBTP could not be held`);
    else if (ceilingDbtp === null && peak !== null && peak > 0) said.push("its true peak passes full scale");
    if (broken.length > 0) said.push(`holds sound of damaged recordings: ${broken.join(", ")}`);
    return said;
  }
</script>

<div class="head">
  <h2>Files</h2>
  {#if open.length > 1}
    <span class="all">
      <ProgressBar size="sm" hideLabel labelText="All files under way" value={done} max={1} />
    </span>
    <Button kind="tertiary" size="small" on:click={() => deliveries.cancel(open.map(({ job }) => job.id))}
      >Cancel all {open.length}</Button
    >
  {:else if kept.length > 1}
    <Link href={archive} icon={Download} download>Save all {kept.length} as ZIP</Link>
  {/if}
</div>
<ul aria-label="Files">
  {#each deliveries.list as one (one.job.id)}
    {@const { job, delivered, fileName } = one}
    <li>
      <span class="name" title={fileName}>{fileName}</span>
      {#if job.endedAt === null}
        <span class="under-way">
          <ProgressBar size="sm" hideLabel labelText={fileName} value={job.progress} max={1} />
          <span class="number share"
            >{job.state === "queued" ? "waiting" : `${Math.round(job.progress * 100)} %`}</span
          >
          <Button
            kind="ghost"
            size="small"
            aria-label="Cancel {fileName}"
            on:click={() => deliveries.cancel([job.id])}>Cancel</Button
          >
        </span>
      {:else if delivered}
        {@const { measurement } = delivered}
        <span class="levels number">
          <span title="Integrated loudness of the written file">{db(measurement.integratedLufs, "LUFS")}</span
          >
          <span title="True peak of the written file">{db(measurement.truePeakDbtp, "dBTP")}</span>
          <span>{formatTime(delivered.frames / delivered.sampleRate, 1)}</span>
          <span>{(delivered.bytes / 1e6).toFixed(1)} MB</span>
          {#if one.kept}<Link href="/api/jobs/{job.id}/file" download aria-label="Save {fileName}">Save</Link>
          {:else}<span class="soft">no longer kept</span>{/if}
        </span>
        {#each remarks(one) as remark (remark)}<span class="remark soft">{remark}</span>{/each}
      {:else}
        <span class="remark" class:fault={job.state === "failed"}>{job.error ?? "cancelled"}</span>
      {/if}
    </li>
  {:else}
    <li class="empty">
      Nothing delivered yet. Choose what and how on the left, then press Deliver: each file is measured as it
      was written, and kept here for {EXPORT_DAYS} days.
    </li>
  {/each}
</ul>

<style>
  .head {
    display: flex;
    align-items: center;
    gap: 12px;
    min-height: 32px;
  }

  h2 {
    flex: 1;
    font-size: 14px;
    font-weight: 600;
  }

  .all {
    width: 120px;
  }

  ul {
    margin: 6px 0 0;
    padding: 0;
    list-style: none;
  }

  li {
    display: grid;
    gap: 2px;
    padding: 6px 0;
    border-bottom: 1px solid var(--w-rule);
    font-size: 13px;
  }

  .name {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  .under-way {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 64px auto;
    align-items: center;
    gap: 8px;
  }

  .share {
    font-size: 12px;
    text-align: right;
  }

  .levels {
    display: grid;
    grid-template-columns: 84px 80px 62px 66px auto;
    gap: 6px;
    font-size: 12px;
  }

  .levels > :global(:last-child) {
    justify-self: end;
    font-size: 12px;
  }

  .remark {
    font-size: 12px;
  }

  .fault {
    color: var(--w-madder);
  }

  .empty {
    padding: 14px;
    border: 1px dashed var(--w-soft);
  }
</style>
