import type { ClipIndex } from "../src/lib/ui/state/clipIndex.svelte";

/** Listens to every lane as the lanes' pictures do; counts how often each is told. Returns what ends it. */
export function watchLanes(
  index: ClipIndex,
  lanes: readonly string[],
  told: Map<string, number>
): () => void {
  return $effect.root(() => {
    for (const lane of lanes)
      $effect(() => {
        index.watch(lane);
        told.set(lane, (told.get(lane) ?? 0) + 1);
      });
  });
}
