import { number, object, string } from 'yup';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { answer, bodyOf, checked, uuid } from '@/server/http';
import { Refused } from '@/server/pool';

type Context = { params: Promise<{ id: string }> };
const end = object({
  kind: string<'joint' | 'vertex'>().oneOf(['joint', 'vertex']).required(),
  node: string().defined().max(10_000),
  nth: number().integer().min(1).max(100_000),
  vertex: number()
    .integer()
    .min(0)
    .when('kind', { is: 'vertex', then: (s) => s.required() }),
}).required();
const pin = object({ id: uuid(), label: string().trim().max(120).default(''), from: end, to: end });

/** Pins a measure between two points or joints to the character. */
export async function POST(request: Request, { params }: Context) {
  return answer(request, async () => {
    const { id, label, from, to } = checked(pin, {
      ...((await bodyOf(request)) as object),
      ...(await params),
    });
    await characterById(database(), id);
    await database()
      .insertInto('pins')
      .values({ character_id: id, label, ends: JSON.stringify({ from, to }) })
      .execute();
    return Response.json(await characterById(database(), id), { status: 201 });
  });
}

const which = object({ id: uuid(), pin: uuid() });
const asked = async (request: Request, { params }: Context) =>
  checked(which, { ...(await params), pin: new URL(request.url).searchParams.get('pin') });

/** Gives a pin a label: ?pin=ID. An empty one takes it away. */
export async function PATCH(request: Request, context: Context) {
  return answer(request, async () => {
    const q = await asked(request, context);
    const { label } = checked(object({ label: string().trim().max(120).defined() }), await bodyOf(request));
    const { numUpdatedRows } = await database()
      .updateTable('pins')
      .set({ label })
      .where('id', '=', q.pin)
      .where('character_id', '=', q.id)
      .executeTakeFirst();
    if (Number(numUpdatedRows) === 0)
      throw new Refused('This measure is not pinned any more; reload the page.', 404);
    return characterById(database(), q.id);
  });
}

/** Takes a pin out: ?pin=ID. */
export async function DELETE(request: Request, context: Context) {
  return answer(request, async () => {
    const q = await asked(request, context);
    await database().deleteFrom('pins').where('id', '=', q.pin).where('character_id', '=', q.id).execute();
    return characterById(database(), q.id);
  });
}
