import type { Brief } from '../../core/house/brief';
import { loopFigures, partFigures, poleFigures, sideFigures } from '../../core/rooms/surface/figures';
import { type Command, READING, briefOf, print, printJson, readOptionsOf } from '../command';
import { UsageError } from '../errors';
import { readFile } from '../files';

/** The surface of a file in figures: its parts, left and right, and the loops across its joints. */
export const surfaceCommand: Command = {
  name: 'surface',
  takes: 'FILE',
  options: { brief: { value: 'B' }, json: {}, ...READING },
  run(given, files) {
    if (files.length !== 1) throw new UsageError('Name one file to look at.');
    const brief = briefOf(given);
    const report = reportOf(files[0], readFile(files[0], readOptionsOf(given)), brief);
    if (given.json) printJson(report);
    else printReport(report);
    return 0;
  },
};

function reportOf(file: string, character: ReturnType<typeof readFile>, brief: Brief) {
  const { surface } = brief;
  const sides = sideFigures(character, surface.twins);
  return {
    file,
    brief: brief.id,
    parts: partFigures(character).map(
      ({
        node: _node,
        isClosed,
        isRigid,
        isSaidRigid: _saidRigid,
        isSaid,
        isOneSided,
        polygons: _polygons,
        ...part
      }) => ({
        ...part,
        closed: isClosed,
        rigid: isRigid,
        said: isSaid,
        oneSided: isOneSided,
      }),
    ),
    symmetry: {
      ...sides,
      differences: sides.differences.map(({ node, vertices: _vertices, ...difference }) => ({
        mesh: character.nodes[node].name,
        ...difference,
      })),
    },
    loops: loopFigures(character, surface).map(({ node: _node, loops: _loops, ...joint }) => joint),
    poles: poleFigures(character, surface),
  };
}

function printReport({ file, parts, symmetry, loops, poles }: ReturnType<typeof reportOf>): void {
  print(`${file}: ${parts.length} ${parts.length === 1 ? 'part' : 'parts'}`);
  const width = Math.max(0, ...parts.map(({ name }) => name.length));
  for (const part of parts) {
    const faces = `${part.quads} quads, ${part.triangles} triangles, ${part.ngons} n-gons`;
    const genus = part.genus === null ? 'not sound' : `genus ${part.genus}`;
    print(
      `  ${part.name.padEnd(width)}  ${(part.kind ?? '—').padEnd(6)}  ${part.points} points, ${faces}, ${part.closed ? 'closed' : 'open'}, ${genus}`,
    );
  }
  print(
    symmetry.plane
      ? `left and right: ${(symmetry.share * 100).toFixed(1)} % of the points have a twin within ${(symmetry.tolerance * 1000).toFixed(2)} mm`
      : 'left and right: no plane of symmetry found',
  );
  for (const { region, without, points } of symmetry.differences)
    print(`  ${region}: ${without} of ${points} points have none`);
  print(`loops across joints: ${loops.length} joints counted`);
  for (const { bone, near, above, below, wanted } of loops)
    print(
      `  ${near < wanted ? '✗' : ' '} ${bone}: ${near} (${above} above, ${below} below), wanted ${wanted}`,
    );
  for (const { name, poles: count, near } of poles)
    if (count > 0) print(`poles of ${name}: ${count}, ${near} of them near a joint that bends`);
}
