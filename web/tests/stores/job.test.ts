// The job as the server holds it: who may take back what, what others do meanwhile, and what is refused.
import { beforeEach, describe, expect, test } from 'vitest';
import type { Job } from '../../src/api/client';
import { useBench } from '../../src/stores/bench';
import { useJob } from '../../src/stores/job';
import { useSteps } from '../../src/stores/steps';
import { useTrials, trialOf } from '../../src/stores/trials';
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

beforeEach(() => {
    held = job();
    server = serving(() => held);
});
async function opened() {
    const jobs = useJob();
    await jobs.open('one');
    return jobs;
}

describe('undo', () => {
    beforeEach(() => {
        held = job({ undo: 'Lift', undo_by: 'Anna' });
        server.on(
            'POST',
            '/jobs/one/undo',
            () => (held = { ...held, revision: 6, undo: null, undo_by: null }),
        );
    });

    test('is of what one did oneself', async () => {
        const jobs = await opened();
        jobs.who = 'Anna';
        await jobs.undo();
        expect(jobs.job?.revision).toBe(6);
        expect(server.of('POST', '/jobs/one/undo')[0]?.body).toEqual({ revision: 5 });
        await jobs.undo();
        expect(server.of('POST', '/jobs/one/undo')).toHaveLength(1);
    });

    test('of what another did says whose it is, and does it when meant', async () => {
        const jobs = await opened();
        jobs.who = 'Ben';
        await jobs.undo();
        expect(jobs.othersStep).toBe('Anna: Lift');
        expect(server.of('POST', '/jobs/one/undo')).toEqual([]);
        await jobs.undo(true);
        expect([jobs.othersStep, jobs.job?.revision]).toEqual(['', 6]);
    });

    test('waits for what is being applied', async () => {
        const jobs = await opened();
        jobs.who = 'Anna';
        const order: string[] = [];
        server.on('POST', '/jobs/one/undo', () => (order.push('taken back'), held));
        const applying = jobs.write(async () => {
            await settled();
            order.push('applied');
        });
        await Promise.all([jobs.undo(), applying]);
        expect(order).toEqual(['applied', 'taken back']);
    });

    test('of a job that changed meanwhile is refused, and the job read anew', async () => {
        const jobs = await opened();
        jobs.who = 'Anna';
        server.on('POST', '/jobs/one/undo', () => new Refused('stale-revision', 'It has changed.', 409));
        held = { ...held, revision: 9 };
        await jobs.undo();
        expect([jobs.refusal?.detail, jobs.job?.revision]).toEqual(['It has changed.', 9]);
    });
});

describe('what others do', () => {
    test('is shown with who did it; what one does oneself is not told', async () => {
        const jobs = await opened();
        held = { ...held, revision: 6, undo: 'Bore', steps: [step(4, { who: 'Ben' })] };
        const told = { revision: 6, setup_revision: 1 };
        await FakeStream.tell('/jobs/one/events', told);
        expect([jobs.job?.revision, jobs.news]).toEqual([6, 'Ben: Bore']);
        // Heard once more it is no news, nor while one's own write is under way.
        jobs.news = '';
        await FakeStream.tell('/jobs/one/events', told);
        held = { ...held, revision: 7, undo: 'Lift' };
        await jobs.write(() => FakeStream.tell('/jobs/one/events', { ...told, revision: 7 }));
        expect([jobs.news, jobs.job?.revision]).toEqual(['', 6]);
        held = { ...held, revision: 8, undo: null, steps: [] };
        await FakeStream.tell('/jobs/one/events', { ...told, revision: 8 });
        expect(jobs.news).toBe('Somebody else: everything undone');
    });

    test('is listened to for the job that is open, and no other', async () => {
        const jobs = await opened();
        await jobs.reload();
        expect(FakeStream.all).toHaveLength(1);
        jobs.close();
        expect(FakeStream.all[0]?.closed).toBe(true);
        await FakeStream.tell('/jobs/one/events', { revision: 6, setup_revision: 1 });
        expect([jobs.job, jobs.parts]).toEqual([null, []]);
    });
});

test('a job that is not there is not opened; a server that is away is trouble until it answers', async () => {
    const jobs = useJob();
    await jobs.open('another');
    expect([jobs.job, jobs.trouble, jobs.loading]).toEqual([null, null, false]);
    server.on('GET', '/jobs', () => {
        throw new TypeError('connection refused');
    });
    await jobs.open('one');
    expect(jobs.trouble?.type).toBe('urn:nimbet:unreachable');
    server.on('GET', '/jobs', () => [{ id: 'one' }]);
    await jobs.open('one');
    expect([jobs.job?.id, jobs.trouble]).toEqual(['one', null]);
});

test('an edit is followed to its end; a second one waits for nobody, it is not begun', async () => {
    const jobs = await opened();
    const slow = queued();
    server.on('POST', '/jobs/one/edits', () => slow);
    server.on('DELETE', '/tasks/*', () => undefined);
    const edit = { edit: 'park' as const, steps: [2] };
    const first = jobs.edit(edit);
    await settled();
    expect(jobs.editing?.id).toBe(slow.id);
    await jobs.edit(edit);
    jobs.stopEdit();
    await settled();
    expect(server.of('POST', '/jobs/one/edits')).toHaveLength(1);
    expect(server.of('DELETE', `/tasks/${slow.id}`)).toHaveLength(1);
    await FakeStream.tell(`/tasks/${slow.id}/events`, failed('cancelled'));
    await first;
    expect(jobs.editing).toBeNull();
});

test('a part is compared with what it came in as, or with what it was made as', async () => {
    const made = step(4, {
        report: { made: [{ mesh: 'one half' }, { mesh: 'other half', part: 9 }], left: [] },
    });
    held = job({ steps: [step(1, { mesh: 'came in' }), made] });
    const jobs = await opened();
    expect([1, 5, 9, 77].map((id) => jobs.origin(id))).toEqual([
        'came in',
        'one half',
        'other half',
        undefined,
    ]);
});

describe('steps of the ledger', () => {
    test('that others need go with them, once that is said and meant', async () => {
        const two = step(2, { needed_by: [3, 4] });
        held = job({ steps: [step(1), two, step(3), step(4, { state: { is: 'parked' } })] });
        await opened();
        server.on('POST', '/jobs/one/edits', () => done({}));
        const steps = useSteps();
        steps.ask('remove', two);
        expect(steps.asked).toMatchObject({
            verb: 'Remove all 3',
            words: expect.stringMatching(/^Steps 3, 4 need /),
        });
        // What is parked already is not parked once more.
        steps.ask('park', two);
        expect(steps.asked).toMatchObject({
            verb: 'Park all 2',
            words: expect.stringMatching(/^Step 3 needs /),
        });
        expect(server.of('POST', '/jobs/one/edits')).toEqual([]);
        steps.yes();
        await settled();
        expect(server.of('POST', '/jobs/one/edits').map((a) => a.body)).toMatchObject([
            { edit: { edit: 'park', steps: [2, 3] } },
        ]);
        expect(steps.asked).toBeNull();
        // Nothing needs the last one: it goes at once.
        steps.ask('remove', step(4));
        await settled();
        expect(server.of('POST', '/jobs/one/edits')).toHaveLength(2);
    });

    test('offer what can be done with them, and nothing else', async () => {
        const came = step(1, { action: { kind: 'bring_in', file: 'cup.off' } });
        const read = step(2, { action: { kind: 'bring_in', file: 'cup.step' } });
        const parked = step(3, { state: { is: 'parked' } });
        held = job({ steps: [came, read, parked, step(4), step(5)], cursor: 4 });
        await opened();
        const steps = useSteps();
        const keys = (n: number) => steps.acts(held.steps[n]!, n).map((act) => act.key);
        expect(keys(0)).toEqual(['park', 'work', 'keep', 'compare', 'later', 'write', 'remove']);
        expect(keys(1)).toContain('read');
        expect(keys(2)).toEqual(['reopen', 'unpark', 'work', 'earlier', 'later', 'write', 'remove']);
        // The one work goes on after, and one that is held back.
        expect(keys(3)).not.toContain('work');
        expect(keys(4)).toEqual(['park', 'work', 'earlier', 'write', 'remove']);
    });

    test('are walked through from end to end, those of one part where only they are listed', async () => {
        held = job({
            parts: [part(1), part(2)],
            steps: [step(1), step(2, { part: 2 }), step(3, { others: [1], part: 2 })],
        });
        await opened();
        const steps = useSteps();
        for (const n of [1, 2, 3, 3]) {
            steps.walk(1);
            expect(steps.chosen).toBe(n);
        }
        steps.walk(-9);
        expect(steps.chosen).toBe(1);
        steps.own = true;
        expect(held.steps.filter(steps.isListed).map((s) => s.number)).toEqual([1, 3]);
        steps.walk(1);
        expect(steps.chosen).toBe(3);
    });

    test('a body leads back to the drawing it was made of', async () => {
        const profile = step(1, {
            action: { kind: 'shape.profile' },
            report: { made: [{ mesh: 'p' }], left: [] },
        });
        const body = step(5, {
            part: 2,
            action: { kind: 'shape.extrude' },
            report: { made: [{ mesh: 'b', part: 8 }], left: [] },
        });
        held = job({ steps: [profile, body, step(6, { part: 8 })] });
        await opened();
        const steps = useSteps();
        expect([2, 8, 1, undefined].map((id) => steps.drawingOf(id)?.number)).toEqual([
            1,
            1,
            undefined,
            undefined,
        ]);
    });
});

describe('the bench', () => {
    test('walks the findings of its station, round and round, also when they come later', async () => {
        await opened();
        const bench = useBench();
        await settled();
        bench.station = 'wall';
        await settled();
        bench.stepFinding(-1);
        expect(bench.findingKey).toBeNull();
        bench.wallFindings = ['a', 'b', 'c'].map((key) => ({
            key,
            kind: 'thin_wall',
            remedies: [],
        })) as never;
        await settled();
        expect(bench.findingKey).toBe('c');
        bench.stepFinding(1);
        expect(bench.finding?.key).toBe('a');
        expect(bench.station).toBe('wall');
        bench.selectPart(1);
        expect(bench.finding).toBeNull();
    });

    test('shows what is pinned, and keeps the eye where it is for what is seen already', async () => {
        held = job({ parts: [part(1), part(2), part(3)] });
        await opened();
        const bench = useBench();
        const shown = () => bench.shownParts.map((p) => p.id);
        bench.pin([2]);
        const before = bench.flights;
        bench.selectPart(2);
        expect([shown(), bench.flights]).toEqual([[2], before]);
        bench.selectPart(3);
        expect([shown(), bench.flights]).toEqual([[2, 3], before + 1]);
        bench.hide([2, 3]);
        expect(shown()).toEqual([]);
        bench.showAll();
        expect(shown()).toEqual([1, 2, 3]);
        bench.only();
        expect(shown()).toEqual([3]);
    });
});

describe('a remedy', () => {
    const finding = (...by: number[]) =>
        ({
            key: 'rim 1',
            kind: 'rim',
            remedies: by.map((n) => ({ label: `${n}`, operation: { kind: 'seal.cover_rim', by: n } })),
        }) as never;
    const report = (state: string, left: string[] = []) =>
        ({ after: { state, reason: 'open: 1 rim' }, left, made: [] }) as never;

    test('is tried before it is offered: what it would make, what it leaves, why it fails', async () => {
        expect(trialOf(report('sealed'))).toEqual({ is: 'works', told: 'a proved solid afterwards' });
        expect(trialOf(report('open', ['1 rim stays']))).toEqual({
            is: 'works',
            told: 'open: 1 rim afterwards; 1 rim stays',
        });
        await opened();
        const [bench, trials] = [useBench(), useTrials()];
        server.on('POST', '/jobs/one/forecasts', ({ body }) => {
            const { by } = (body as { action: { by: number } }).action;
            if (by === 1) return done({ mesh: 'm', report: report('sealed') });
            return by === 2 ? failed('refused', 'The cover would cross itself.') : failed('too-much-memory');
        });
        bench.wallFindings = [finding(1, 2, 3)];
        bench.selectFinding('rim 1');
        await settled();
        const told = (by: number) => trials.of({ kind: 'seal.cover_rim', by } as never);
        expect(told(1)?.is).toBe('works');
        expect(told(2)).toEqual({ is: 'fails', why: 'The cover would cross itself.' });
        // What failed for another reason than the part itself is not known.
        expect(told(3)).toBeUndefined();
        // What is known is not worked out again.
        bench.selectFinding(null);
        await settled();
        bench.selectFinding('rim 1');
        await settled();
        expect(server.of('POST', '/jobs/one/forecasts')).toHaveLength(4);
    });

    test('is no longer tried when another finding is looked at', async () => {
        await opened();
        const [bench, trials] = [useBench(), useTrials()];
        const slow = queued();
        server.on('POST', '/jobs/one/forecasts', () => slow);
        bench.wallFindings = [finding(1, 2)];
        bench.selectFinding('rim 1');
        await settled();
        expect(trials.of({ kind: 'seal.cover_rim', by: 1 } as never)).toEqual({ is: 'trying' });
        bench.selectFinding(null);
        await settled();
        expect(server.of('DELETE', `/tasks/${slow.id}`)).toHaveLength(1);
        await FakeStream.tell(`/tasks/${slow.id}/events`, { ...failed('cancelled'), id: slow.id });
        await settled();
        expect(trials.of({ kind: 'seal.cover_rim', by: 1 } as never)).toBeUndefined();
        expect(server.of('POST', '/jobs/one/forecasts')).toHaveLength(1);
    });
});
