import { object } from 'yup';
import { briefById } from '@/core/house/briefs';
import type { Effects } from '@/core/house/effects';
import { remedyById } from '@/core/house/registry';
import { getBlob } from '@/server/blobs';
import { characterById, wireOf } from '@/server/characters';
import type { Step } from '@/core/contracts/step';
import { database } from '@/server/database';
import { answer, checked, uuid } from '@/server/http';
import { onThread } from '@/server/pool';
import { effectsText } from '@/ui/kit/effects';

function detail(step: Step): string {
  if (step.kind === 'import') return step.files.map((f) => f.name).join(', ');
  if (step.kind === 'remap')
    return `onto ${step.target}, at most ${step.limit} influences${step.proof ? `; largest difference in motion ${(step.proof.max * 1000).toPrecision(3)} mm` : ''}`;
  if (step.kind === 'remedy') {
    const r = remedyById(step.remedy);
    return (r?.says?.(step.params) ?? r)?.does ?? step.remedy;
  }
  if (step.kind === 'copy')
    return `from revision ${step.from.revision} of ${step.from.character}, “${step.from.label}”`;
  const files = step.files.map((f) => f.name).join(', ');
  if (step.kind === 'add') return `${files}, read in ${step.unit}`;
  const undone = step.rows?.filter((r) => r.outcome === 'does not fit') ?? [];
  return `${files}; ${step.rows?.length ?? 0} recorded steps done again${undone.length > 0 ? `, of which ${undone.length} no longer fit: ${undone.map((r) => r.label).join(', ')}` : ''}`;
}

/** The report of a revision as HTML that prints well. */
export async function GET(request: Request, { params }: { params: Promise<{ id: string }> }) {
  return answer(request, async () => {
    const { id } = checked(object({ id: uuid() }), await params);
    const db = database();
    const wire = await wireOf(db, id);
    const character = await characterById(db, wire.characterId);
    // What a step touched and that nothing else moved, as it was found when the step was done.
    const changed = (effects: Partial<Effects>) =>
      effects.others ? effectsText(effects, briefById(character.brief)?.unit ?? 'm') : '';
    const line = [];
    for (
      let r = character.revisions.find((x) => x.id === id);
      r;
      r = character.revisions.find((x) => x.id === r?.parent)
    )
      line.unshift(r);
    const last = line[line.length - 1];
    const png = last.picture ? await getBlob(db, last.picture) : null;
    const { html } = await onThread({
      task: 'report',
      wire,
      brief: character.brief,
      picture: png ? `data:image/png;base64,${Buffer.from(png).toString('base64')}` : null,
      facts: {
        title: character.name,
        revision: last.number,
        date: new Date(last.createdAt).toISOString().slice(0, 10),
        pins: character.pins,
        steps: line.map((r) => ({
          number: r.number,
          label: r.label,
          detail: [detail(r.step), changed(r.effects as Partial<Effects>)].filter(Boolean).join(' '),
          note: r.note,
        })),
      },
    });
    const download = new URL(request.url).searchParams.has('download');
    return new Response(html, {
      headers: {
        'content-type': 'text/html; charset=utf-8',
        'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'; img-src data:",
        ...(download
          ? {
              'content-disposition': `attachment; filename="${character.name.replace(/[^\w-]+/g, '-').toLowerCase()}-r${last.number}-report.html"`,
            }
          : {}),
      },
    });
  });
}
