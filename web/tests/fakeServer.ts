// A stand-in for the server: what is asked of it is written down, what it answers is told by the test.
import { createPinia, setActivePinia } from 'pinia';
import { vi } from 'vitest';
import type { Job, Part, Step, Task } from '../src/api/client';
import { useJob } from '../src/stores/job';

export interface Asked {
    method: string;
    path: string;
    body: never;
}
type Answer = (asked: Asked) => unknown;

/** An answer that is a problem. */
export class Refused {
    constructor(
        readonly type: string,
        readonly detail = 'It cannot be.',
        readonly status = 422,
    ) {}
}

/** A stream of events, told by the test. */
export class FakeStream {
    static all: FakeStream[] = [];
    onmessage: ((event: { data: string }) => unknown) | null = null;
    onerror: (() => unknown) | null = null;
    closed = false;
    constructor(readonly url: string) {
        FakeStream.all.push(this);
    }
    close() {
        this.closed = true;
    }
    /** Tells who listens to an address. */
    static async tell(url: string, data: unknown) {
        for (const stream of FakeStream.all)
            if (!stream.closed && stream.url.endsWith(url))
                await stream.onmessage?.({ data: JSON.stringify(data) });
    }
}

export class FakeServer {
    readonly asked: Asked[] = [];
    private answers: [method: string, path: RegExp, answer: Answer][] = [];

    constructor() {
        FakeStream.all = [];
        vi.stubGlobal('EventSource', FakeStream);
        vi.stubGlobal('fetch', (input: string | Request, options?: RequestInit) =>
            this.answer(input, options),
        );
    }

    /** What is answered from now on; paths have * for what may be anything. */
    on(method: string, path: string, answer: Answer) {
        const pattern = new RegExp(`^${path.replaceAll('*', '[^/]+')}$`);
        this.answers.unshift([method, pattern, answer]);
    }

    /** What was asked of an address, in order. */
    of(method: string, path: string) {
        const pattern = new RegExp(`^${path.replaceAll('*', '[^/]+')}$`);
        return this.asked.filter((a) => a.method === method && pattern.test(a.path));
    }

    private async answer(input: string | Request, options?: RequestInit): Promise<Response> {
        const request = typeof input === 'string' ? new Request(input, options) : input;
        const text = await request.text();
        const path = decodeURIComponent(new URL(request.url).pathname.replace('/api/v1', ''));
        const asked = { method: request.method, path, body: (text ? JSON.parse(text) : undefined) as never };
        this.asked.push(asked);
        const found = this.answers.find(([method, pattern]) => method === asked.method && pattern.test(path));
        if (!found) throw new TypeError(`nobody answers ${asked.method} ${path}`);
        const got = await found[2](asked);
        if (got instanceof Refused) {
            const { type, detail, status } = got;
            const problem = { type: `urn:nimbet:${type}`, title: 'No', status, detail, places: [] };
            return Response.json(problem, { status });
        }
        return got === undefined ? new Response(null, { status: 204 }) : Response.json(got);
    }
}

/** Until what was begun has settled. */
export const settled = async () => {
    for (let n = 0; n < 20; n++) await new Promise((resolve) => setTimeout(resolve, 0));
};

export const part = (id: number, more: Partial<Part> = {}): Part =>
    ({ id, mesh: `mesh-${id}`, name: `Part ${id}`, figures: {}, ...more }) as Part;

export const step = (number: number, more: Record<string, unknown> = {}): Step =>
    ({
        number,
        part: 1,
        mesh: `mesh-after-${number}`,
        title: `Did ${number}`,
        name: null,
        at: `day ${number}, `,
        who: null,
        action: { kind: 'shape.place', by: [0, 0, 1] },
        others: [],
        needed_by: [],
        state: { is: 'done' },
        report: { made: [], left: [] },
        ...more,
    }) as unknown as Step;

export const job = (more: Partial<Job> = {}): Job =>
    ({
        id: 'one',
        name: 'One',
        revision: 5,
        setup_revision: 1,
        setup: {},
        cursor: more.steps?.length ?? 0,
        parts: [part(1)],
        steps: [],
        undo: null,
        undo_by: null,
        redo: null,
        ...more,
    }) as Job;

let tasks = 0;
/** A task in the queue; its end is told over its stream. */
export const queued = (): Task => ({ id: ++tasks, state: 'queued' }) as unknown as Task;
export const done = (result: Record<string, unknown>): Task =>
    ({ id: ++tasks, state: 'done', result }) as unknown as Task;
export const failed = (type: string, detail = 'It cannot be.'): Task =>
    ({
        id: ++tasks,
        state: 'failed',
        problem: { type: `urn:nimbet:${type}`, title: 'No', status: 422, detail, places: [] },
    }) as unknown as Task;

/** A server that holds one job, as it is each time it is asked; stores that know nothing yet. */
export function serving(now: () => Job): FakeServer {
    setActivePinia(createPinia());
    const server = new FakeServer();
    server.on('GET', '/jobs', () => [{ id: now().id, name: now().name }]);
    server.on('GET', '/jobs/*', now);
    server.on('GET', '/catalogue', () => ({ materials: [], processes: [] }));
    server.on('GET', '/meshes/*/examination', () => ({ findings: [], gaps: [] }));
    server.on('DELETE', '/tasks/*', () => undefined);
    return server;
}

/** As `serving`, with the job on the bench. */
export async function onBench(now: () => Job): Promise<FakeServer> {
    const server = serving(now);
    await useJob().open(now().id);
    return server;
}
