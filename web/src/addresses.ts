// Addresses: every job, part, station, step and release has one, which can be kept, reloaded and sent; back and forward go along them.
import { computed, ref, watch } from 'vue';
import { createRouter, createWebHistory, useRoute, useRouter, type RouteLocationRaw } from 'vue-router';
import { useBench } from './stores/bench';
import { useJob } from './stores/job';
import { useReleases } from './stores/releases';
import { useSteps } from './stores/steps';
import { stations, type StationKey } from './text';

/** What is shown is drawn by the page itself; routes only name it. */
const shown = { render: () => null };

export const router = createRouter({
    history: createWebHistory(),
    routes: [
        { path: '/', name: 'start', component: shown },
        { path: '/jobs', name: 'jobs', component: shown },
        { path: '/jobs/:job', name: 'job', component: shown },
        { path: '/jobs/:job/parts/:part(\\d+)/:station?', name: 'part', component: shown },
        { path: '/jobs/:job/steps/:step(\\d+)', name: 'step', component: shown },
        { path: '/jobs/:job/releases/:release', name: 'release', component: shown },
        { path: '/:rest(.*)*', redirect: '/jobs' },
    ],
});

const isStation = (key: unknown): key is StationKey => stations.some((s) => s.key === key);

export function useAddresses() {
    const route = useRoute();
    const go = useRouter();
    const bench = useBench();
    const jobs = useJob();
    const steps = useSteps();
    const releases = useReleases();
    /** Whether what the address names is being brought about. */
    const following = ref(false);
    /** Why an address led nowhere. */
    const lost = ref('');

    /** The address of what is on the bench. */
    const here = computed<RouteLocationRaw | null>(() => {
        const [job, part] = [jobs.job?.id, bench.part?.id];
        if (!job) return null;
        if (bench.tab === 'ledger' && steps.chosen !== null)
            return { name: 'step', params: { job, step: steps.chosen } };
        const chosen = bench.station === 'release' ? releases.chosen : null;
        if (chosen) return { name: 'release', params: { job, release: chosen } };
        if (part === undefined) return { name: 'job', params: { job } };
        return { name: 'part', params: { job, part, station: bench.station } };
    });
    const pathOf = (to: RouteLocationRaw) => go.resolve(to).path;

    async function follow() {
        const { name, params } = route;
        if (name === 'jobs') {
            jobs.close();
            await jobs.begin();
            return;
        }
        const wanted = name === 'start' ? localStorage.getItem('nimbet.job') : (params.job as string);
        if (wanted && jobs.job?.id !== wanted) await jobs.open(wanted);
        if (jobs.trouble) return;
        if (!wanted || jobs.job?.id !== wanted) {
            if (name !== 'start') lost.value = 'There is no such job here. It may have been deleted.';
            await go.replace({ name: 'jobs' });
            return;
        }
        lost.value = '';
        if (!jobs.job.steps.length) bench.openStation('bring');
        if (name === 'part') {
            const part = Number(params.part);
            if (part !== bench.part?.id && jobs.parts.some((p) => p.id === part)) bench.selectPart(part);
            if (isStation(params.station)) bench.openStation(params.station);
        } else if (name === 'step') {
            bench.tab = 'ledger';
            steps.chosen = Number(params.step);
        } else if (name === 'release') {
            await releases.load();
            const found = releases.list.find((r) => r.id === params.release);
            if (found && jobs.parts.some((p) => p.id === found.part)) bench.selectPart(found.part);
            releases.chosen = found?.id ?? null;
            bench.openStation('release');
        }
        if (here.value && route.path !== pathOf(here.value)) await go.replace(here.value);
    }

    watch(
        () => route.fullPath,
        async () => {
            if (here.value && route.path === pathOf(here.value)) return;
            if (route.name === 'jobs' && !jobs.job) return;
            following.value = true;
            try {
                await follow();
            } finally {
                following.value = false;
            }
        },
    );
    watch(here, (to) => {
        if (following.value) return;
        if (to && route.path !== pathOf(to)) void go.push(to);
        else if (!to && !jobs.loading) void go.push({ name: 'jobs' });
    });

    /** Brings about what the address names; asked for once the page is there, and again while the server does not answer. */
    async function begin() {
        await go.isReady();
        if (following.value) return;
        following.value = true;
        try {
            await jobs.begin();
            await follow();
        } finally {
            following.value = false;
        }
    }
    const onJobs = computed(() => route.name === 'jobs');
    return { begin, onJobs, lost };
}
