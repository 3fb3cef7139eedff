// The API with its generated types, and tasks followed to their end.
import createClient from 'openapi-fetch';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];
export type Job = Schemas['JobView'];
export type Part = Schemas['PartView'];
export type Step = Schemas['StepView'];
export type Task = Schemas['TaskView'];
export type Problem = Schemas['Problem'];
export type Figures = Schemas['Figures'];
export type Finding = Schemas['Finding'];
export type Examination = Schemas['Examination'];
export type Action = Schemas['Action'];
export type FaceAnchor = Schemas['FaceAnchor'];
export type Edit = Schemas['Edit'];
export type StepState = Schemas['StepState'];
export type LaterStep = Schemas['LaterStep'];
export type Report = Schemas['StepReport'];
export type Release = Schemas['ReleaseView'];
export type Check = Schemas['Check'];
export type Face = Schemas['FaceFacts'];
export type PlanStage = Schemas['PlanStage'];
export type Material = Schemas['Material'];
export type Setup = Schemas['Setup'];
export type WallFinding = Schemas['WallFinding'];
export type LengthUnit = Schemas['LengthUnit'];
export type BillLine = Schemas['BillLine'];
export type OfferedBody = Schemas['OfferedBody'];
export type PickedBody = Schemas['PickedBody'];
export type ReleaseFormat = Schemas['ReleaseFormat'];

export const api = createClient<paths>({ baseUrl: '' });

/** A problem the server described, or one with reaching it. */
export class ProblemError extends Error {
    constructor(readonly problem: Problem) {
        super(problem.detail);
    }
}

export const unreachable: Problem = {
    type: 'urn:nimbet:unreachable',
    title: 'The bench does not answer',
    status: 0,
    detail: 'The server cannot be reached. Nothing is lost: every finished step is kept.',
};

/** Unwraps an answer of the client, or throws the problem. */
export async function answer<T>(call: Promise<{ data?: T; error?: unknown }>): Promise<T> {
    let got: { data?: T; error?: unknown };
    try {
        got = await call;
    } catch {
        throw new ProblemError(unreachable);
    }
    if (got.data !== undefined) return got.data;
    const problem = got.error as Problem | undefined;
    throw new ProblemError(problem?.detail ? problem : unreachable);
}

/** Gets what the client has no type for, or throws the problem. */
export async function fetched(path: string): Promise<Response> {
    let got: Response;
    try {
        got = await fetch(path);
    } catch {
        throw new ProblemError(unreachable);
    }
    if (got.ok) return got;
    throw new ProblemError(await got.json().catch(() => unreachable));
}

export const isOver = (task: Task) => ['done', 'failed', 'cancelled'].includes(task.state);

/** Follows a task until it is over, telling each change; resolves with its last state. */
export function follow(task: Task, tell: (task: Task) => void): Promise<Task> {
    tell(task);
    if (isOver(task)) return Promise.resolve(task);
    return new Promise((resolve, reject) => {
        const source = new EventSource(`/api/v1/tasks/${task.id}/events`);
        let failures = 0;
        source.onmessage = (event) => {
            failures = 0;
            const now = JSON.parse(event.data) as Task;
            tell(now);
            if (isOver(now)) {
                source.close();
                resolve(now);
            }
        };
        // The stream connects again by itself; a server that stays away for long is told.
        source.onerror = () => {
            if (++failures > 20) {
                source.close();
                reject(new ProblemError(unreachable));
            }
        };
    });
}

/** Sends a file with its unit, telling how much has been sent (0 to 1). */
export function sendFile(
    job: string,
    file: File,
    /** Further fields: unit, who, recipe. */
    fields: Record<string, string>,
    tell: (fraction: number) => void,
    signal: AbortSignal,
): Promise<Task> {
    const form = new FormData();
    for (const [name, value] of Object.entries(fields)) if (value) form.append(name, value);
    form.append('file', file, file.name);
    return new Promise((resolve, reject) => {
        const request = new XMLHttpRequest();
        request.open('POST', `/api/v1/jobs/${job}/files`);
        request.responseType = 'json';
        request.upload.onprogress = (e) => tell(e.lengthComputable ? e.loaded / e.total : 0);
        request.onload = () =>
            request.status === 202
                ? resolve(request.response as Task)
                : reject(new ProblemError((request.response as Problem | null) ?? unreachable));
        request.onerror = () => reject(new ProblemError(unreachable));
        request.onabort = () =>
            reject(new ProblemError({ ...unreachable, type: 'urn:nimbet:cancelled', title: 'Cancelled' }));
        signal.addEventListener('abort', () => request.abort());
        request.send(form);
    });
}
