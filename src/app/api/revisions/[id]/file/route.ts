import { object } from 'yup';
import { characterById, wireOf } from '@/server/characters';
import { database } from '@/server/database';
import { answer, binary, checked, uuid } from '@/server/http';
import { onThread } from '@/server/pool';

/** The clean file: binary glTF 2.0. */
export async function GET(request: Request, { params }: { params: Promise<{ id: string }> }) {
  return answer(request, async () => {
    const { id } = checked(object({ id: uuid() }), await params);
    const wire = await wireOf(database(), id);
    const character = await characterById(database(), wire.characterId);
    const number = character.revisions.find((r) => r.id === id)?.number;
    const { bytes, notes } = await onThread({ task: 'export', wire });
    const name = `${character.name.replace(/[^\w-]+/g, '-').toLowerCase()}-r${number}.glb`;
    return binary(bytes, 'model/gltf-binary', { 'content-disposition': `attachment; filename="${name}"`, 'x-bough-notes': encodeURIComponent(JSON.stringify(notes)) });
  });
}
