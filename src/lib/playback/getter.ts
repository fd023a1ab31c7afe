// What the server has of recordings, as bytes.

/** What came: bytes, or why none did. */
export interface Gotten {
  readonly status: number;
  readonly bytes: ArrayBuffer | null;
  readonly error: string;
}

/** Gets what lies at an address. @throws when no one answers */
export type Getter = (address: string) => Promise<Gotten>;

export const get: Getter = async (address) => {
  const answer = await fetch(address);
  const { status } = answer;
  if (answer.ok) return { status, bytes: await answer.arrayBuffer(), error: "" };
  const { error } = (await answer.json()) as { error: string };
  return { status, bytes: null, error };
};
