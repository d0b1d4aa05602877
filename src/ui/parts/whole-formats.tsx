'use client';

import { useFormats } from '../state/formats';

/** The formats that a character can be handed over in, as options of a choice. */
export function WholeFormats() {
  return useFormats()
    .filter((format) => format.isWhole)
    .map((format) => (
      <option key={format.id} value={format.id}>
        {format.title}
      </option>
    ));
}
