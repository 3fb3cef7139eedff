// What the person looks at: part, station, finding, lens, section, theme. Nothing here changes the job.
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import type { Finding } from '../api/client';
import type { Lens, StationKey } from '../text';
import { useJob } from './job';
import { useMeshes } from './meshes';

export const useBench = defineStore('bench', () => {
    const jobs = useJob();
    const meshes = useMeshes();
    const station = ref<StationKey>('seal');
    /** What the worksheet shows: the station's sheet or the ledger. */
    const tab = ref<'station' | 'ledger'>('station');
    const lens = ref<Lens>('plain');
    const selectedPart = ref<number | null>(null);
    const findingKey = ref<string | null>(null);
    /** The face that was clicked. */
    const face = ref<number | null>(null);
    /** Parts shown beside the selected one. */
    const pinned = ref(new Set<number>());
    const hidden = ref(false);
    const dark = ref(localStorage.getItem('nimbet.theme') === 'night');
    const dialog = ref<'search' | 'keys' | 'help' | null>(null);
    /** The tool whose page of the manual is shown. */
    const help = ref('');
    function showHelp(key: string) {
        help.value = key;
        dialog.value = 'help';
    }
    /** Whether the parts are shown as they are while a forecast stands on the bench. */
    const before = ref(false);
    /** Goes up when the view should fly to what is selected. */
    const flights = ref(0);

    const part = computed(() => jobs.parts.find((p) => p.id === selectedPart.value) ?? jobs.parts[0] ?? null);
    /** The number steps are done to: that of the part, or of the empty bench. */
    const partNumber = computed(() => part.value?.id ?? 0);
    const examination = computed(() => (part.value && meshes.examinations.get(part.value.mesh)) || null);
    /** What is wrong with the part as a solid. */
    const findings = computed<readonly Finding[]>(() => examination.value?.findings ?? []);
    /** What is wrong with its walls for the way it is made; told by the walls' store. */
    const wallFindings = shallowRef<readonly Finding[]>([]);
    /** The findings of the station. */
    const listed = computed(() => (station.value === 'wall' ? wallFindings.value : findings.value));
    const finding = computed(
        () => [...findings.value, ...wallFindings.value].find((f) => f.key === findingKey.value) ?? null,
    );
    const shownParts = computed(() =>
        jobs.parts.filter((p) => pinned.value.has(p.id) || (p.id === part.value?.id && !hidden.value)),
    );

    watch(
        () => part.value?.mesh,
        (mesh) => mesh && void meshes.examination(mesh),
        { immediate: true },
    );
    watch(
        () => part.value?.mesh,
        () => (face.value = null),
    );
    watch(dark, (on) => localStorage.setItem('nimbet.theme', on ? 'night' : 'paper'));
    // Opening a station sets the lens that helps there.
    watch(station, (now) => (lens.value = now === 'seal' ? 'rims' : now === 'wall' ? 'wall' : 'plain'), {
        immediate: true,
    });

    function openStation(key: StationKey) {
        station.value = key;
        tab.value = 'station';
    }

    function selectPart(id: number) {
        const seen = shownParts.value.some((p) => p.id === id);
        selectedPart.value = id;
        findingKey.value = null;
        hidden.value = false;
        // What is on the bench already is looked at from where the eye is.
        if (!seen) flights.value++;
    }

    function togglePin(id: number) {
        const next = new Set(pinned.value);
        if (!next.delete(id)) next.add(id);
        pinned.value = next;
    }

    /** Shows further parts beside the selected one. */
    function pin(ids: readonly number[]) {
        pinned.value = new Set([...pinned.value, ...ids]);
        if (part.value && ids.includes(part.value.id)) hidden.value = false;
    }

    /** Takes parts out of the view. */
    function hide(ids: readonly number[]) {
        pinned.value = new Set([...pinned.value].filter((id) => !ids.includes(id)));
        if (part.value && ids.includes(part.value.id)) hidden.value = true;
    }

    function showAll() {
        hidden.value = false;
        pinned.value = new Set(jobs.parts.map((p) => p.id));
        flights.value++;
    }

    function only() {
        hidden.value = false;
        pinned.value = new Set();
        flights.value++;
    }

    function selectFinding(key: string | null) {
        findingKey.value = key;
        if (key) {
            openStation(wallFindings.value.some((f) => f.key === key) ? 'wall' : 'seal');
            flights.value++;
        }
    }

    /** A step asked for before the findings are there is taken once they are. */
    let awaited: 1 | -1 | null = null;
    watch(listed, (all) => all.length && awaited && stepFinding(awaited));
    watch([() => part.value?.mesh, station], () => (awaited = null));

    function stepFinding(by: 1 | -1) {
        const all = listed.value;
        awaited = all.length || (station.value !== 'wall' && examination.value) ? null : by;
        if (!all.length) return;
        const at = all.findIndex((f) => f.key === findingKey.value);
        const next = at < 0 ? (by > 0 ? 0 : all.length - 1) : (at + by + all.length) % all.length;
        selectFinding(all[next]?.key ?? null);
    }

    return {
        station,
        tab,
        lens,
        findingKey,
        face,
        pinned,
        hidden,
        dark,
        dialog,
        help,
        showHelp,
        before,
        flights,
        part,
        partNumber,
        examination,
        findings,
        wallFindings,
        listed,
        finding,
        shownParts,
        openStation,
        selectPart,
        togglePin,
        pin,
        hide,
        showAll,
        only,
        selectFinding,
        stepFinding,
    };
});
