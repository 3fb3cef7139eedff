// The first walk: seven stops along the route on a part of the demo, to be left and taken again.
import { defineStore } from 'pinia';
import { computed, ref, watch } from 'vue';
import { stops } from '../walk';
import { useBench } from './bench';
import { useJob } from './job';
import { useJobList } from './jobList';
import { useReleases } from './releases';

export const useWalk = defineStore('walk', () => {
    const bench = useBench();
    const jobs = useJob();
    const releases = useReleases();
    /** The stop; null while nobody walks. */
    const at = ref<number | null>(null);
    const stop = computed(() => (at.value === null ? null : stops[at.value]!));
    const part = computed(() => jobs.parts.find((p) => p.name === 'Porthole ring'));
    const seen = computed(() => ({
        part: part.value,
        finding: bench.findingKey !== null,
        bored: (jobs.job?.steps ?? []).some(
            (s) => s.part === part.value?.id && s.action.kind === 'fasten.bore',
        ),
        released: releases.list.some((r) => r.part === part.value?.id),
    }));
    const done = computed(() => stop.value?.done(seen.value) ?? false);
    /** Where the stop is, with the part it is about. */
    watch([stop, () => part.value?.id], ([now, id]) => {
        if (!now || id === undefined) return;
        if (bench.part?.id !== id) bench.selectPart(id);
        bench.openStation(now.station);
    });
    /** Begins on the demo, in a job of its own where the one that is open is none. */
    async function start() {
        at.value = 0;
        if (!part.value) await useJobList().tryDemo();
    }
    const leave = () => (at.value = null);
    function go(by: number) {
        const next = (at.value ?? 0) + by;
        at.value = next >= 0 && next < stops.length ? next : null;
    }
    return { at, stop, part, done, start, leave, go };
});
