// Gets bytes for a worker that has no time to: each request takes some milliseconds of who makes it.
import { get, type Gotten } from "./getter";

export interface ToGet {
  readonly id: number;
  readonly address: string;
}

/** What came, or why no one answered. */
export type FromGet = { readonly id: number } & ({ readonly gotten: Gotten } | { readonly failed: string });

onmessage = ({ data: { id, address } }: MessageEvent<ToGet>) => {
  get(address)
    .then((gotten) => {
      const message: FromGet = { id, gotten };
      postMessage(message, { transfer: gotten.bytes ? [gotten.bytes] : [] });
    })
    .catch((error: unknown) => {
      const message: FromGet = { id, failed: error instanceof Error ? error.message : String(error) };
      postMessage(message);
    });
};
