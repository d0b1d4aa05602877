import { proxy } from 'comlink';

/**
 * What a worker tells of its way to an answer. It comes by another line than the answer itself and may come behind it, when
 * nobody wants to hear it any more: a bar that has gone would be there again, and stay.
 */
export class HeardProgress {
  private isAnswered = false;
  /** What the worker is given. */
  readonly listener: (share: number) => void;

  /** @param hear told of every share, 0 … 1, until the answer is there */
  constructor(hear: (share: number) => void) {
    this.listener = proxy((share: number) => {
      if (!this.isAnswered) hear(share);
    });
  }

  /** The answer of the worker, after which nothing is heard. */
  async until<T>(answer: Promise<T>): Promise<T> {
    try {
      return await answer;
    } finally {
      this.isAnswered = true;
    }
  }
}
