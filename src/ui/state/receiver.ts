/** The receiver that is asked: one of the house's, or changed by hand; kept in the browser. */
import { create } from 'zustand';
import { RECEIVERS, type Receiver, receiverById, receiverFrom } from '@/core/rooms/docket/receivers';

const KEY = 'young-bough-receiver';

/** What was kept; the first of the house where nothing was, or not in the shape of today. */
function kept(): Receiver {
  try {
    return receiverFrom(JSON.parse(localStorage.getItem(KEY) ?? ''));
  } catch {
    return RECEIVERS[0];
  }
}

export const useReceiver = create<{ receiver: Receiver }>(() => ({
  receiver: typeof localStorage === 'undefined' ? RECEIVERS[0] : kept(),
}));

/** The receiver as a route takes it: its id where it is one of the house's as it is, else its settings as JSON. */
export function useReceiverAsked(): string {
  const { id, ...settings } = useReceiver((state) => state.receiver);
  const text = JSON.stringify({ id, ...settings });
  return JSON.stringify(receiverById(id)) === text ? id : text;
}

export function setReceiver(receiver: Receiver): void {
  useReceiver.setState({ receiver });
  try {
    localStorage.setItem(KEY, JSON.stringify(receiver));
  } catch {
    // A browser that keeps nothing asks again next time.
  }
}
