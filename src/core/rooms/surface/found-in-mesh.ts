import type { Found } from '../../contracts/check';
import type { Elements, Subject } from '../../contracts/finding';
import type { Character } from '../../character/model';
import { type Shown, shownMeshes } from '../../character/measure';

/** Something of which a mesh should have none: how many, which, and the way out. */
export interface Unsound {
  readonly count: number;
  readonly unit: string;
  readonly message: string;
  readonly label: string;
  readonly kind: 'vertex' | 'edge' | 'polygon';
  /** Of edges two vertices each. */
  readonly ids: Uint32Array;
  readonly remedies: NonNullable<Found['remedies']>;
  /** How much it matters; worth mending where nothing is said. */
  readonly gravity?: Found['gravity'];
}

/** A finding for each mesh that has something of which it should have none. `name`: as the mesh is called in sentences. */
export const foundInMeshes = (
  character: Character,
  look: (shown: Shown, name: string) => Unsound | null,
): Found[] =>
  shownMeshes(character).flatMap((shown): Found[] => {
    const { node, mesh } = shown;
    const name = character.nodes[node].name || mesh.name;
    const unsound = look(shown, name);
    if (!unsound || unsound.count === 0) return [];
    const { count, unit, message, label, kind, ids, remedies, gravity = 'worth' } = unsound;
    const subject: Subject = { kind: 'mesh', index: character.nodes[node].mesh, name };
    const elements: Elements = { kind, node, ids };
    return [
      {
        gravity,
        subject,
        unit,
        count,
        message,
        measured: count,
        expected: 0,
        elements: [elements],
        evidence: [{ label, now: count, brief: 0, unit }],
        remedies,
      },
    ];
  });
