// The step being considered: what is applied is what is written, and only the newest forecast speaks.
import { beforeEach, describe, expect, test } from 'vitest';
import type { Action, Job } from '../../src/api/client';
import { useBench } from '../../src/stores/bench';
import { useForecast } from '../../src/stores/forecast';
import { useJob } from '../../src/stores/job';
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

const lifted = (by: number) => ({ kind: 'shape.place', by: [0, 0, by] }) as unknown as Action;
const report = { made: [], left: [] };
let held: Job;
let server: FakeServer;

async function opened() {
    await useJob().open('one');
    return { forecast: useForecast(), jobs: useJob(), bench: useBench() };
}

beforeEach(() => {
    held = job({ parts: [part(1), part(2)] });
    server = serving(() => held);
    server.on('POST', '/jobs/one/forecasts', () => done({ mesh: 'then', report, later: [] }));
    server.on('POST', '/jobs/one/steps', () => {
        held = { ...held, revision: held.revision + 1, steps: [...held.steps, step(7)] };
        return done({ step: 7 });
    });
});

describe('a step', () => {
    test('is forecast, applied and put away', async () => {
        const { forecast, jobs } = await opened();
        await forecast.consider('Lift', lifted(3));
        expect(forecast.ready).toMatchObject({ mesh: 'then', later: [] });
        await forecast.apply();
        expect(server.of('POST', '/jobs/one/steps')[0]?.body).toEqual({
            revision: 5,
            part: 1,
            action: lifted(3),
            who: null,
        });
        expect([forecast.draft, forecast.ready, forecast.applied?.title]).toEqual([null, null, 'Lift']);
        expect(jobs.job?.revision).toBe(6);
    });

    test('is applied with what was typed a moment before', async () => {
        const { forecast } = await opened();
        await forecast.consider('Lift', lifted(3));
        const field = Symbol();
        forecast.typed.set(field, () => {
            forecast.typed.delete(field);
            void forecast.consider('Lift', lifted(6));
        });
        await forecast.apply();
        expect(
            server.of('POST', '/jobs/one/forecasts').map((a) => (a.body as { action: Action }).action),
        ).toEqual([lifted(3), lifted(6)]);
        expect(
            server.of('POST', '/jobs/one/steps').map((a) => (a.body as { action: Action }).action),
        ).toEqual([lifted(6)]);
    });

    test('is not applied with a wrong field, without a forecast, or while it is refused', async () => {
        const { forecast } = await opened();
        await forecast.apply();
        await forecast.consider('Lift', lifted(3));
        const field = Symbol();
        forecast.wrong.add(field);
        await forecast.apply();
        forecast.wrong.delete(field);
        server.on('POST', '/jobs/one/forecasts', () => failed('refused', 'Too high.'));
        await forecast.consider('Lift', lifted(900));
        expect(forecast.problem?.detail).toBe('Too high.');
        await forecast.apply();
        expect(server.of('POST', '/jobs/one/steps')).toEqual([]);
        // What is right again works.
        server.on('POST', '/jobs/one/forecasts', () => done({ mesh: 'then', report, later: [] }));
        await forecast.consider('Lift', lifted(4));
        expect(forecast.problem).toBeNull();
        await forecast.apply();
        expect(server.of('POST', '/jobs/one/steps')).toHaveLength(1);
    });

    test('that fails when it is applied stays as it was written', async () => {
        const { forecast } = await opened();
        await forecast.consider('Lift', lifted(3));
        server.on('POST', '/jobs/one/steps', () => failed('too-much-memory', 'More than there is.'));
        await forecast.apply();
        expect(forecast.problem?.detail).toBe('More than there is.');
        expect(forecast.draft).toEqual(lifted(3));
        expect([forecast.applying, forecast.working]).toEqual([false, false]);
    });

    test('goes with what it makes: new parts are shown, a body is made of a profile', async () => {
        held = job({ parts: [part(1, { figures: { drawn: {} } as never })] });
        const { forecast, bench } = await opened();
        server.on('POST', '/jobs/one/steps', () => {
            held = { ...held, revision: 6, parts: [...held.parts, part(8)], steps: [step(8)] };
            return done({ step: 8 });
        });
        await forecast.consider('Extrude', lifted(3));
        await forecast.apply();
        expect(bench.part?.id).toBe(8);
        expect(bench.shownParts.map((p) => p.id)).toContain(8);
    });
});

describe('only the newest forecast speaks', () => {
    test('an earlier one that comes late is not heard, and its work is stopped', async () => {
        const { forecast } = await opened();
        const early = queued();
        server.on('POST', '/jobs/one/forecasts', () => early);
        const first = forecast.consider('Lift', lifted(1));
        await settled();
        expect(forecast.working).toBe(true);
        server.on('POST', '/jobs/one/forecasts', () => done({ mesh: 'newer', report, later: [] }));
        await forecast.consider('Lift', lifted(2));
        expect(server.of('DELETE', `/tasks/${early.id}`)).toHaveLength(1);
        await FakeStream.tell(`/tasks/${early.id}/events`, {
            ...early,
            state: 'done',
            result: { mesh: 'older', report },
        });
        await first;
        expect(forecast.ready?.mesh).toBe('newer');
        expect(forecast.draft).toEqual(lifted(2));
        expect(forecast.working).toBe(false);
    });

    test('what is put away while it is worked out stays away', async () => {
        const { forecast } = await opened();
        const slow = queued();
        server.on('POST', '/jobs/one/forecasts', () => slow);
        const asked = forecast.consider('Lift', lifted(1));
        await settled();
        forecast.cancel();
        await FakeStream.tell(`/tasks/${slow.id}/events`, {
            ...slow,
            state: 'done',
            result: { mesh: 'm', report },
        });
        await asked;
        expect([forecast.draft, forecast.ready, forecast.problem, forecast.working]).toEqual([
            null,
            null,
            null,
            false,
        ]);
    });

    test('another part, or the part as it is after an undo, puts it away', async () => {
        const { forecast, bench, jobs } = await opened();
        await forecast.consider('Lift', lifted(3));
        bench.selectPart(2);
        await settled();
        expect([forecast.draft, forecast.ready]).toEqual([null, null]);
        await forecast.consider('Lift', lifted(3));
        held = { ...held, parts: [part(1), part(2, { mesh: 'as it was' })] };
        await jobs.reload();
        await settled();
        expect([forecast.draft, forecast.ready]).toEqual([null, null]);
    });
});

describe('when the job has changed meanwhile', () => {
    test('a forecast is asked for anew, once, of the job as it is', async () => {
        const { forecast } = await opened();
        server.on('POST', '/jobs/one/forecasts', ({ body }) =>
            (body as { revision: number }).revision === 6
                ? done({ mesh: 'now', report, later: [] })
                : new Refused('stale-revision', 'Somebody was quicker.', 409),
        );
        held = { ...held, revision: 6 };
        await forecast.consider('Lift', lifted(3));
        expect(forecast.ready?.mesh).toBe('now');
        server.on(
            'POST',
            '/jobs/one/forecasts',
            () => new Refused('stale-revision', 'Somebody was quicker.', 409),
        );
        await forecast.consider('Lift', lifted(4));
        expect(forecast.ready).toBeNull();
        expect(forecast.problem?.type).toBe('urn:nimbet:stale-revision');
        expect(server.of('POST', '/jobs/one/forecasts')).toHaveLength(4);
    });

    test('a step is not applied to what nobody saw: it is told, and the job is read anew', async () => {
        const { forecast, jobs } = await opened();
        await forecast.consider('Lift', lifted(3));
        server.on(
            'POST',
            '/jobs/one/steps',
            () => new Refused('stale-revision', 'Somebody was quicker.', 409),
        );
        held = { ...held, revision: 6 };
        await forecast.apply();
        await settled();
        expect(forecast.problem?.detail).toBe('Somebody was quicker.');
        expect(jobs.job?.revision).toBe(6);
    });
});

describe('a reopened step', () => {
    test('stands as it was on the part as it was, and is replaced', async () => {
        const old = step(3, { mesh: 'made then', name: 'Lifted a little', action: lifted(1) });
        held = job({ steps: [step(2), old], cursor: 2 });
        server.on('GET', '/jobs/one/parts', () => [part(1, { mesh: 'before it' })]);
        server.on('POST', '/jobs/one/edit-forecasts', () => done({ mesh: 'otherwise', report, later: [] }));
        server.on('POST', '/jobs/one/edits', () => done({}));
        const { forecast, bench, jobs } = await opened();
        await forecast.reopen(old);
        expect(forecast.title).toBe('Step 3: Lifted a little');
        expect(forecast.ready).toMatchObject({ mesh: 'made then', asItWas: true });
        expect([bench.station, bench.part?.mesh]).toEqual(['shape', 'before it']);
        await forecast.consider(forecast.title, lifted(2));
        expect(forecast.ready).toMatchObject({ mesh: 'otherwise' });
        await forecast.apply();
        expect(server.of('POST', '/jobs/one/edits')[0]?.body).toEqual({
            revision: 5,
            edit: { edit: 'replace', step: 3, action: lifted(2) },
            who: null,
        });
        expect(jobs.asOf).toBeNull();
    });

    test('that has stopped says why, where', async () => {
        const state = { is: 'stopped', new_pick: true, why: 'the face is gone', places: [[1, 2, 3]] };
        const old = step(3, { state });
        held = job({ steps: [old] });
        server.on('GET', '/jobs/one/parts', () => [part(1)]);
        const { forecast, jobs } = await opened();
        await forecast.reopen(old);
        expect(forecast.problem).toMatchObject({
            title: 'Pick again',
            detail: 'The face is gone.',
            places: [[1, 2, 3]],
        });
        forecast.cancel();
        expect([forecast.draft, jobs.asOf]).toEqual([null, null]);
    });
});

describe('what would keep what is lost', () => {
    test('is done one after the other; what was done stays where one fails', async () => {
        const { forecast } = await opened();
        const instead = { told: 'otherwise', steps: [lifted(1), lifted(2), lifted(3)] };
        server.on('POST', '/jobs/one/forecasts', () =>
            done({ mesh: 'then', report: { ...report, instead }, later: [] }),
        );
        await forecast.consider('Wall', lifted(9));
        let count = 0;
        server.on('POST', '/jobs/one/steps', () => {
            if (++count === 3) return failed('refused', 'Not this one.');
            held = { ...held, revision: held.revision + 1 };
            return done({ step: count });
        });
        await forecast.applyInstead();
        expect(
            server.of('POST', '/jobs/one/steps').map((a) => (a.body as { revision: number }).revision),
        ).toEqual([5, 6, 7]);
        expect(forecast.problem?.detail).toBe('Not this one.');
    });
});

test('a server that is away is told, not thrown', async () => {
    const { forecast } = await opened();
    server.on('POST', '/jobs/one/forecasts', () => {
        throw new TypeError('connection refused');
    });
    await forecast.consider('Lift', lifted(3));
    expect(forecast.problem?.type).toBe('urn:nimbet:unreachable');
    // Also where it goes away between a forecast and what is known of what it makes.
    server.on('POST', '/jobs/one/forecasts', () => done({ mesh: 'unknown yet', report, later: [] }));
    server.on('GET', '/meshes/unknown yet/examination', () => {
        throw new TypeError('connection refused');
    });
    await forecast.consider('Lift', lifted(4));
    expect(useJob().refusal?.type).toBe('urn:nimbet:unreachable');
    expect(forecast.working).toBe(false);
});
