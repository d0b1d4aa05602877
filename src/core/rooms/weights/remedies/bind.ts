import { array, number, object, string } from 'yup';
import type { Character } from '../../../character/model';
import { choiceOf, refsTo } from '../../../contracts/params';
import { RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { BINDING_WAYS, type BindingWay, bindMeshes, partKey } from '../binding';
import { heldBy } from '../../../character/held-by';
import { bindingBones } from '../bone-segments';
import type { CarriersBrief } from '../kinds';
import { withBoundRows } from '../bound-rows';

const METHODS = { heat: 'heat that spreads from the bones', near: 'the nearest bones' } as const;

/** Binds meshes to the bones anew. */
export const bind = defineRemedy({
  id: 'bind',
  room: 'weights',
  takesSeconds: true,
  title: 'Bind to the bones',
  does: 'The meshes get weights anew, as they stand at rest: by heat that spreads over the surface from the bones that each point sees, or by the nearest bones. What heat cannot bind is bound another way, part by part. Only bones that deform take part.',
  params: object({
    nodes: refsTo('mesh', 'Meshes').required(),
    method: choiceOf('By', METHODS).default('heat'),
    limit: number()
      .integer()
      .min(1)
      .max(64)
      .default(4)
      .meta({ quantity: 'count', label: 'Bones a point may keep' }),
    falloff: number()
      .min(0.5)
      .max(32)
      .default(8)
      .meta({ quantity: 'factor', label: 'How fast far bones fade', when: { method: 'near' } }),
    bones: refsTo('bone', 'Only these bones'),
    ways: array(
      object({
        node: number().integer().min(0).required(),
        island: number().integer().min(0).required(),
        way: string<BindingWay>()
          .oneOf(Object.keys(BINDING_WAYS) as BindingWay[])
          .required(),
      }).required(),
    ),
  }),
  rows(character, { nodes }) {
    const count = nodes.reduce((sum, node) => sum + Number(isBound(character, node)), 0);
    const used = new Set(
      nodes.flatMap((node) => (isBound(character, node) ? [...bonesThatPull(character, node)] : [])),
    );
    return [
      { label: 'Meshes bound', value: count, unit: '' },
      { label: 'Bones that pull them', value: used.size, unit: '' },
    ];
  },
  promises: (character, { nodes }) =>
    promise(['weights', 'joints', 'binds', 'shows', 'places', 'tree'], { meant: nodes, holds: 'at rest' }),
  apply(character, { nodes, method, limit, falloff, bones, ways }, brief: CarriersBrief) {
    if (nodes.length === 0)
      throw new RemedyError('No mesh is chosen; choose the meshes that are to be bound.');
    for (const node of nodes)
      if (!character.meshes[character.nodes[node]?.mesh])
        throw new RemedyError('One of the meshes is not there any more; choose them again.');
    const taking = bones && bones.length > 0 ? bones : bindingBones(character, brief);
    if (taking.length === 0)
      throw new RemedyError(
        'There is no bone that may carry weight; add a skeleton first, or say in the brief which bones may.',
      );
    const saidWays = new Map((ways ?? []).map(({ way, ...part }) => [partKey(part), way as BindingWay]));
    const made = bindMeshes(character, nodes, taking, { limit, falloff, method, ways: saidWays })!;
    return withBoundRows(character, made.look.bones, made.rows);
  },
});

const isBound = (character: Character, node: number): boolean =>
  character.nodes[node]?.mesh >= 0 && heldBy(character, node) === 'bound';

function bonesThatPull(character: Character, node: number): Set<number> {
  const { mesh, skin } = character.nodes[node];
  const { joint, weight } = character.meshes[mesh].influences!;
  const out = new Set<number>();
  joint.forEach((own, k) => {
    if (weight[k] > 0) out.add(character.skins[skin].joints[own]);
  });
  return out;
}
