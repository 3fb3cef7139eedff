// What is done to parts as things of the job, to one or many at once: names, colours, groups, copies, materials, deleting.
import { defineStore } from 'pinia';
import { computed, ref } from 'vue';
import type { Action, Part, Schemas } from '../api/client';
import { useBench } from './bench';
import { useJob } from './job';

/** What colours parts: their own, what they are made of, or how they stand. */
export type ColourBy = 'own' | 'material' | 'state';
const COLOUR_BY = 'nimbet.colourBy';

/** Colours a part can have of its own: told apart in both themes, and by who does not tell red from green. */
export const ownColours = [
    '#B8AD95',
    '#C9A24B',
    '#B5754A',
    '#8C5A78',
    '#5B6FA8',
    '#4E93A8',
    '#5F9A72',
    '#6B7378',
];

/** The material of a part, by name. */
export function materialName(part: Part, materials: readonly { key: string; name: string }[]): string {
    const { material } = part;
    if (!material) return '';
    return (
        material.own?.name ?? materials.find((m) => m.key === material.material)?.name ?? material.material
    );
}

/** What a further part of a step will be called; a number comes after it where another part is called so. */
export function nameOfMade(
    called: Schemas['Called'] | null | undefined,
    of: string,
    parts: readonly { id: number; name: string }[],
): string {
    if (!called) return of;
    if ('plain' in called) return called.plain;
    if ('of' in called) return `${called.of} of ${of}`;
    return parts.find((p) => p.id === called.as)?.name ?? of;
}

export const useParts = defineStore('parts', () => {
    const jobs = useJob();
    const bench = useBench();
    const held = localStorage.getItem(COLOUR_BY);
    const colourBy = ref<ColourBy>(held === 'material' || held === 'state' ? held : 'own');
    /** Where the menu of a part is open. */
    const menu = ref<{ part: number; x: number; y: number } | null>(null);
    const listed = ref(false);
    const groups = computed(() => [...new Set(jobs.parts.flatMap((p) => p.group ?? []))].sort());

    function setColourBy(what: ColourBy) {
        colourBy.value = what;
        localStorage.setItem(COLOUR_BY, what);
    }

    /** Does a step to each of several parts, undone as one. */
    function toEach(ids: readonly number[], action: (part: Part) => Action | null) {
        const chosen = jobs.parts.filter((p) => ids.includes(p.id));
        const steps = chosen.flatMap((p) => {
            const what = action(p);
            return what ? [{ part: p.id, action: what }] : [];
        });
        if (!steps.length) return Promise.resolve();
        return jobs.edit({ edit: 'append', steps });
    }

    const rename = (id: number, name: string) =>
        toEach([id], (p) =>
            name.trim() && name.trim() !== p.name ? { kind: 'label', name: name.trim() } : null,
        );
    const colour = (ids: readonly number[], to: string) =>
        toEach(ids, (p) => ((p.colour ?? '') === to ? null : { kind: 'label', colour: to }));
    const group = (ids: readonly number[], to: string) =>
        toEach(ids, (p) => ((p.group ?? '') === to.trim() ? null : { kind: 'label', group: to.trim() }));
    const material = (ids: readonly number[], key: string) =>
        toEach(ids, () => ({ kind: 'weigh.set_material', material: key }));

    async function duplicate(ids: readonly number[]) {
        const before = new Set(jobs.parts.map((p) => p.id));
        await toEach(ids, (p) => ({ kind: 'keep', name: p.name }));
        bench.pin(jobs.parts.map((p) => p.id).filter((id) => !before.has(id)));
    }

    /** Takes parts out of the job in one step. */
    async function remove(ids: readonly number[]) {
        const [first, ...others] = jobs.parts.map((p) => p.id).filter((id) => ids.includes(id));
        if (first === undefined) return;
        await jobs.edit({
            edit: 'append',
            steps: [{ part: first, action: { kind: 'delete', also: others } }],
        });
    }

    return {
        colourBy,
        setColourBy,
        menu,
        listed,
        groups,
        rename,
        colour,
        group,
        material,
        duplicate,
        remove,
    };
});
