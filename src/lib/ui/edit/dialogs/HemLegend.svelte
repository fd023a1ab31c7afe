<!-- What the strip along a clip's lower edge says. -->
<script lang="ts">
  import { TREATMENT_KINDS, type TreatmentKind } from "$lib/core/session/treatmentKinds";
  import { MARK_PATHS, type Mark } from "../timeline/drawing/marks";

  const states = [
    { kind: "live", text: "dashed: live, computed while it plays" },
    { kind: "rendered", text: "solid: rendered" },
    { kind: "stale", text: "hatched: the render no longer matches, the chain plays live" },
    { kind: "off", text: "hollow: all steps are switched off" },
    { kind: "none", text: "no strip: untreated" }
  ] as const;
  const marks: { mark: Mark; text: string }[] = [
    ...(Object.keys(TREATMENT_KINDS) as TreatmentKind[]).map((mark) => ({
      mark,
      text: TREATMENT_KINDS[mark]
    })),
    { mark: "linked", text: "shares its chain with other clips" },
    { mark: "recording", text: "its recording has a chain, heard by all clips of it" }
  ];
</script>

<dl aria-label="Signs on clips">
  {#each states as { kind, text } (kind)}
    <dt>
      <svg width="56" height="9" aria-hidden="true">
        {#if kind === "live"}<line x1="0" x2="56" y1="4.5" y2="4.5" stroke-width="5" stroke-dasharray="9 5" />
        {:else if kind === "rendered"}<rect x="0" y="2" width="56" height="5" class="full" />
        {:else if kind === "stale"}<rect x="0.5" y="2" width="55" height="5" /><path
            d="M3 7L8 2M9 7L14 2M15 7L20 2M21 7L26 2M27 7L32 2M33 7L38 2M39 7L44 2M45 7L50 2"
          />
        {:else if kind === "off"}<rect x="0.5" y="2" width="55" height="5" class="soft" />{/if}
      </svg>
    </dt>
    <dd>{text}</dd>
  {/each}
  {#each marks as { mark, text } (mark)}
    <dt>
      <svg width="16" height="10" viewBox="-2 -2 11 10" aria-hidden="true" class="mark"
        ><path d={MARK_PATHS[mark]} /></svg
      >
    </dt>
    <dd>{text}</dd>
  {/each}
  <dt class="number">3</dt>
  <dd>how many steps it has</dd>
</dl>

<style>
  dl {
    display: grid;
    grid-template-columns: 70px 1fr;
    align-items: center;
    gap: 4px 12px;
    margin: 0;
  }

  dd {
    margin: 0;
  }

  svg {
    stroke: var(--w-madder);
    fill: none;
  }

  .full {
    fill: var(--w-madder);
    stroke: none;
  }

  .soft {
    stroke: var(--w-soft);
  }

  .mark {
    stroke: var(--w-ink);
    stroke-width: 1.2;
  }
</style>
