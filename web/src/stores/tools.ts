// The tools as the core describes them, with the step each begins with for the part on the bench.
import { defineStore } from 'pinia';
import { computed, shallowRef, watch } from 'vue';
import { answer, api, ProblemError, type Action, type Schemas } from '../api/client';
import type { StationKey } from '../text';
import { useBench } from './bench';
import { useJob } from './job';
import type { Described } from '../tools/fields/describe';
import { usePicks } from '../tools/picking/picks';

export type Tool = Schemas['ToolView'];

/** Whether a JSON pointer leads to something. */
const holds = (action: Action, pointer: string) => {
    let at: unknown = action;
    for (const name of pointer.split('/').slice(1)) at = (at as Record<string, unknown> | null)?.[name];
    return at !== undefined && at !== null;
};

export const useTools = defineStore('tools', () => {
    const bench = useBench();
    const jobs = useJob();
    const all = shallowRef<readonly Tool[]>([]);
    /** Settles when the tools of the part on the bench are there. */
    let asked = Promise.resolve();
    let times = 0;
    /** What the tools depend on, and for what of it they were asked last. */
    const about = computed(() =>
        JSON.stringify([
            jobs.job?.id,
            jobs.job?.setup_revision,
            bench.partNumber,
            bench.part?.mesh,
            bench.part?.material,
        ]),
    );
    let askedFor = '';

    async function look() {
        const own = ++times;
        askedFor = about.value;
        const job = jobs.job?.id;
        if (!job) return;
        const params = { path: { job }, query: { part: bench.partNumber } };
        // A part of an earlier state may be there no more.
        const gone = (error: unknown) =>
            error instanceof ProblemError && error.problem.status === 404 ? all.value : null;
        const got = await answer(api.GET('/api/v1/jobs/{job}/tools', { params })).catch(gone);
        if (own !== times) return;
        if (got) all.value = got;
        // What works them out may be being started anew.
        else window.setTimeout(() => own === times && (asked = look()), 1500);
    }
    watch(about, () => (asked = look()), { immediate: true });

    /** Whether it makes something of a profile. */
    const isOfProfile = (t: Tool) => Boolean(kinds.value.get(t.kind)?.properties?.profile);
    /** Whether it goes along a path. */
    const isAlong = (t: Tool) => Boolean(kinds.value.get(t.kind)?.properties?.path);
    /** Those that can be begun on the part; on a profile or a wire those made for one first. */
    function fitting(station?: StationKey) {
        const fit = all.value.filter((t) => t.lacking === null && (!station || t.station === station));
        const figures = bench.part?.figures;
        if (!figures?.drawn) return fit;
        const first = figures.wire ? isAlong : isOfProfile;
        return [...fit.filter(first), ...fit.filter((t) => !first(t))];
    }
    /** Those that cannot, each with the reason. */
    const lacking = (station?: StationKey) =>
        all.value.filter((t) => t.lacking !== null && (!station || t.station === station));
    /** The one a step belongs to. */
    const of = (action: Action) => {
        const same = all.value.filter((t) => t.kind === action.kind);
        return same.find((t) => t.mark && holds(action, t.mark)) ?? same.find((t) => !t.mark);
    };
    const called = (key: string) => all.value.find((t) => t.key === key);

    const kinds = shallowRef<ReadonlyMap<string, Described>>(new Map());
    /** Settles when all kinds are described; a server that is being started anew is asked again. */
    async function describe(): Promise<void> {
        for (;;) {
            const all = await answer(api.GET('/api/v1/kinds')).catch(() => null);
            if (all) {
                kinds.value = new Map(all.map((k) => [k.kind, k.parameters as Described]));
                return;
            }
            await new Promise((again) => window.setTimeout(again, 1500));
        }
    }
    const toDescribe = describe();
    /** The parameters of a step, described. */
    const described = (action: Action) => kinds.value.get(action.kind);

    /** Takes one up. */
    async function start(key: string) {
        // Another part may have come onto the bench a moment ago.
        if (askedFor !== about.value) asked = look();
        await Promise.all([asked, toDescribe]);
        const tool = called(key);
        if (tool) usePicks().start(tool.name, tool.start as unknown as Action);
    }

    /** Those that can be begun, by what they stand with; on a profile or a wire those made for one stand first. */
    function groups(station: StationKey) {
        const found = new Map<string, Tool[]>();
        const figures = bench.part?.figures;
        const special = figures?.wire ? isAlong : isOfProfile;
        const here = figures?.wire ? 'Along this wire' : 'Of this profile';
        for (const t of fitting(station)) {
            const group = figures?.drawn && special(t) ? here : t.group;
            found.set(group, [...(found.get(group) ?? []), t]);
        }
        return [...found].map(([name, list]) => ({ name, list }));
    }

    return { all, fitting, groups, lacking, of, called, described, start };
});
