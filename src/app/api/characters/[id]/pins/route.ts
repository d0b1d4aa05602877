import { number, object, string } from 'yup';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { answer, bodyOf, checked, uuid } from '@/server/http';

type Context = { params: Promise<{ id: string }> };
const end = object({ kind: string<'joint' | 'vertex'>().oneOf(['joint', 'vertex']).required(), node: string().defined().max(10_000), nth: number().integer().min(1).max(100_000), vertex: number().integer().min(0).when('kind', { is: 'vertex', then: (s) => s.required() }) }).required();
const pin = object({ id: uuid(), label: string().trim().max(120).default(''), from: end, to: end });

/** Pins a measure between two points or joints to the character. */
export async function POST(request: Request, { params }: Context) {
  return answer(request, async () => {
    const { id, label, from, to } = checked(pin, { ...(await bodyOf(request) as object), ...(await params) });
    await characterById(database(), id);
    await database().insertInto('pins').values({ character_id: id, label, ends: JSON.stringify({ from, to }) }).execute();
    return Response.json(await characterById(database(), id), { status: 201 });
  });
}

/** Takes a pin out: ?pin=ID. */
export async function DELETE(request: Request, { params }: Context) {
  return answer(request, async () => {
    const q = checked(object({ id: uuid(), pin: uuid() }), { ...(await params), pin: new URL(request.url).searchParams.get('pin') });
    await database().deleteFrom('pins').where('id', '=', q.pin).where('character_id', '=', q.id).execute();
    return characterById(database(), q.id);
  });
}
