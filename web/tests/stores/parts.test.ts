// Parts as things of the job: brought in, named, released, and the tools that fit them.
import { beforeEach, describe, expect, test, vi } from 'vitest';
import type { Job, Part } from '../../src/api/client';
import { useBench } from '../../src/stores/bench';
import { useBringIn } from '../../src/stores/bringIn';
import { useJob } from '../../src/stores/job';
import { materialName, nameOfMade, useParts } from '../../src/stores/parts';
import { useReleases } from '../../src/stores/releases';
import { useTools } from '../../src/stores/tools';
import {
    done,
    failed,
    FakeStream,
    job,
    part,
    queued,
    Refused,
    serving,
    settled,
    step,
    type FakeServer,
} from '../fakeServer';

let held: Job;
let server: FakeServer;
const bodies = (method: string, path: string) =>
    server.of(method, path).map((a) => a.body as Record<string, unknown>);

beforeEach(async () => {
    held = job({
        parts: [part(1, { name: 'Cup' }), part(2, { name: 'Lid', group: 'lids' }), part(3, { name: 'Ring' })],
    });
    server = serving(() => held);
    server.on('GET', '/kinds', () => []);
    server.on('GET', '/jobs/one/tools', () => []);
    server.on('GET', '/jobs/one/releases', () => []);
    server.on('POST', '/jobs/one/edits', () => done({}));
    await useJob().open('one');
});

describe('many parts at once', () => {
    test('are changed in one step, but for those that are so already', async () => {
        const parts = useParts();
        await parts.group([1, 2, 3], 'lids ');
        await parts.rename(1, ' Beaker ');
        await parts.rename(2, 'Lid');
        await parts.rename(3, '   ');
        const label = (id: number, more: object) => ({ part: id, action: { kind: 'label', ...more } });
        expect(bodies('POST', '/jobs/one/edits').map((b) => b.edit)).toEqual([
            { edit: 'append', steps: [label(1, { group: 'lids' }), label(3, { group: 'lids' })] },
            { edit: 'append', steps: [label(1, { name: 'Beaker' })] },
        ]);
        expect(parts.groups).toEqual(['lids']);
    });

    test('go in one step, whichever order they were chosen in, and none for none', async () => {
        const parts = useParts();
        await parts.remove([]);
        await parts.remove([3, 1, 99]);
        expect(bodies('POST', '/jobs/one/edits').map((b) => b.edit)).toEqual([
            { edit: 'append', steps: [{ part: 1, action: { kind: 'delete', also: [3] } }] },
        ]);
    });

    test('are copied, and the copies are shown', async () => {
        server.on('POST', '/jobs/one/edits', () => {
            held = { ...held, revision: 6, parts: [...held.parts, part(9, { name: 'Cup 2' })] };
            return done({});
        });
        await useParts().duplicate([1]);
        expect(useBench().shownParts.map((p) => p.id)).toContain(9);
    });

    test('are called after what they are made of', () => {
        expect(nameOfMade(null, 'Cup', held.parts)).toBe('Cup');
        expect(nameOfMade({ plain: 'Drum' }, 'Cup', held.parts)).toBe('Drum');
        expect(nameOfMade({ of: 'Coat' }, 'Cup', held.parts)).toBe('Coat of Cup');
        expect(nameOfMade({ as: 2 }, 'Cup', held.parts)).toBe('Lid');
        expect(nameOfMade({ as: 77 }, 'Cup', held.parts)).toBe('Cup');
        const bronze = [{ key: 'bronze', name: 'Tin bronze' }];
        const of = (material: unknown) => materialName({ material } as Part, bronze);
        expect([
            of(null),
            of({ material: 'bronze' }),
            of({ material: 'gone' }),
            of({ own: { name: 'Ours' } }),
        ]).toEqual(['', 'Tin bronze', 'gone', 'Ours']);
    });
});

describe('releases', () => {
    test('of several go on where one cannot be, and say which and why', async () => {
        server.on('POST', '/jobs/one/releases', ({ body }) =>
            (body as { part: number }).part === 2 ? failed('refused', 'It is open.') : done({}),
        );
        const releases = useReleases();
        await releases.several([1, 2, 3]);
        expect(releases.told).toBe('2 of 3 released. Lid: It is open.');
        expect([releases.running, releases.task]).toEqual([false, null]);
        expect(bodies('POST', '/jobs/one/releases').every((b) => b.accept_loss === false)).toBe(true);
    });

    test('in one file are all of them or none, with the check that fails', async () => {
        const releases = useReleases();
        server.on('POST', '/jobs/one/releases', () => {
            const problem = new Refused('not-proved', 'Not all is proved.');
            return problem;
        });
        await releases.together([1, 2]);
        expect(releases.told).toBe('Not all is proved.');
        const checks = [
            { holds: true, claim: 'closed', evidence: '' },
            { holds: false, claim: 'Apart', evidence: 'Cup and Lid overlap' },
        ];
        server.on('POST', '/jobs/one/releases', () => {
            const over = failed('not-proved');
            return { ...over, problem: { ...over.problem, checks } };
        });
        await releases.together([1, 2]);
        expect(releases.told).toBe('Not released. Apart: Cup and Lid overlap');
        expect(bodies('POST', '/jobs/one/releases')[0]).toMatchObject({ part: 1, with: [2], format: '3mf' });
        await releases.together([]);
        expect(server.of('POST', '/jobs/one/releases')).toHaveLength(2);
    });
});

describe('tools', () => {
    const tool = (key: string, more: object = {}) => ({
        key,
        kind: `shape.${key}`,
        name: key,
        group: 'Bodies',
        station: 'shape',
        lacking: null,
        mark: '',
        start: {},
        ...more,
    });

    test('that are marked stand for steps that hold what they are marked by', async () => {
        server.on('GET', '/jobs/one/tools', () => [
            tool('saw'),
            tool('saw by sheet', { kind: 'shape.saw', mark: '/by/sheet' }),
            tool('hull', { lacking: 'It needs a solid.' }),
        ]);
        const tools = useTools();
        await settled();
        const saw = (by: object) => tools.of({ kind: 'shape.saw', by } as never)?.key;
        expect([saw({ plane: {} }), saw({ sheet: 4 }), saw({ sheet: null })]).toEqual([
            'saw',
            'saw by sheet',
            'saw',
        ]);
        expect(tools.fitting('shape').map((t) => t.key)).toEqual(['saw', 'saw by sheet']);
        expect(tools.fitting('wall')).toEqual([]);
        expect(tools.lacking().map((t) => t.key)).toEqual(['hull']);
    });

    test('made for a drawing stand first where one is on the bench', async () => {
        held = job({ parts: [part(1, { figures: { drawn: {} } as never })] });
        server.on('GET', '/kinds', () => [
            { kind: 'shape.extrude', parameters: { properties: { profile: {} } } },
            { kind: 'shape.place', parameters: { properties: {} } },
        ]);
        server.on('GET', '/jobs/one/tools', () => [tool('place'), tool('extrude')]);
        await useJob().reload();
        const tools = useTools();
        await settled();
        expect(tools.groups('shape').map((g) => [g.name, g.list.map((t) => t.key)])).toEqual([
            ['Of this profile', ['extrude']],
            ['Bodies', ['place']],
        ]);
    });
});

describe('files', () => {
    /** What is sent, as the page would send it. */
    class Sending {
        static all: Sending[] = [];
        upload: { onprogress?: (e: object) => void } = {};
        status = 0;
        response: unknown = null;
        onload = () => {};
        onabort = () => {};
        onerror = () => {};
        form = new FormData();
        open() {}
        send(form: FormData) {
            this.form = form;
            Sending.all.push(this);
        }
        abort() {
            this.onabort();
        }
        answer(status: number, response: unknown) {
            Object.assign(this, { status, response });
            this.onload();
        }
    }
    const files = (...names: string[]) => ({
        files: names.map((n) => new File(['solid'], n)),
        passedOver: 0,
        tooMany: 0,
    });
    beforeEach(() => {
        Sending.all = [];
        vi.stubGlobal('XMLHttpRequest', Sending);
    });

    test('come in a few at a time; those that wait can be taken out of the list', async () => {
        const bringIn = useBringIn();
        const all = bringIn.bring(files('a.stl', 'b.stl', 'c.stl', 'd.stl', 'e.stl'));
        await settled();
        expect([Sending.all.length, bringIn.arrivals.map((a) => a.task.doing)]).toEqual([
            3,
            ['sending', 'sending', 'sending', 'waiting for its turn', 'waiting for its turn'].map((d, n) =>
                n < 3 ? expect.any(String) : d,
            ),
        ]);
        bringIn.arrivals[3]!.cancel();
        for (let n = 0; n < 4; n++) {
            await settled();
            Sending.all[n]?.answer(422, { type: 'urn:nimbet:refused', detail: 'It is no mesh.' });
        }
        await all;
        expect(Sending.all.map((s) => (s.form.get('file') as File).name)).toEqual([
            'a.stl',
            'b.stl',
            'c.stl',
            'e.stl',
        ]);
        expect(bringIn.arrivals.every((a) => a.problem?.detail === 'It is no mesh.')).toBe(true);
    });

    test('that leave a question are brought in again with its answer', async () => {
        const bringIn = useBringIn();
        const first = bringIn.bring(files('cup.stl'));
        await settled();
        expect([Sending.all[0]?.form.get('unit'), Sending.all[0]?.form.get('bodies')]).toEqual([
            'ask',
            'ask',
        ]);
        Sending.all[0]!.answer(422, { type: 'urn:nimbet:units-asked', detail: 'Which unit?' });
        await first;
        bringIn.arrivals[0]!.again({ unit: 'inch' });
        await settled();
        expect(Sending.all[1]?.form.get('unit')).toBe('inch');
        const task = queued();
        Sending.all[1]!.answer(202, task);
        await settled();
        held = {
            ...held,
            revision: 6,
            parts: [...held.parts, part(4)],
            steps: [step(4, { part: 4, report: { made: [], left: ['2 fins'] } })],
        };
        await FakeStream.tell(`/tasks/${task.id}/events`, {
            ...task,
            state: 'done',
            fraction: 1,
            result: { step: 4 },
        });
        await settled();
        expect(bringIn.arrivals).toHaveLength(1);
        expect(bringIn.arrivals[0]).toMatchObject({ part: 4, problem: null, notes: ['2 fins'] });
        expect(useBench().part?.id).toBe(4);
    });

    test('whose sending is stopped are told as such, and one whose server is away', async () => {
        const bringIn = useBringIn();
        const all = bringIn.bring(files('a.stl', 'b.stl'));
        await settled();
        bringIn.arrivals[0]!.cancel();
        Sending.all[1]!.onerror();
        await all;
        expect(bringIn.arrivals.map((a) => [a.task.state, a.problem?.type])).toEqual([
            ['failed', 'urn:nimbet:cancelled'],
            ['failed', 'urn:nimbet:unreachable'],
        ]);
        bringIn.dismiss(bringIn.arrivals[0]!);
        expect(bringIn.arrivals.map((a) => a.name)).toEqual(['b.stl']);
    });
});
