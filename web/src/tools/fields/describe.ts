// The parameters of a step as the core describes them (JSON schema with a few words more), made ready to be drawn.
import type { Plane } from '../../planes';

/** A description: JSON schema, everything in place. */
export interface Described {
    title?: string;
    description?: string;
    type?: string | readonly string[];
    const?: unknown;
    enum?: readonly unknown[];
    default?: unknown;
    properties?: Readonly<Record<string, Described>>;
    items?: Described;
    oneOf?: readonly Described[];
    anyOf?: readonly Described[];
    not?: { const?: unknown };
    minimum?: number;
    maximum?: number;
    exclusiveMinimum?: number;
    unit?: string;
    asks?: string;
    empty?: string;
    hint?: string;
    least?: number;
    when?: Readonly<Record<string, unknown>>;
    folded?: boolean;
}

/** The number of no part: one is still to be chosen. */
export const NO_PART = 0;

/** Something a person picks in the view. */
export type Asked = 'face' | 'shells' | 'edges' | 'points' | 'brush' | 'rim';

export interface Choice {
    value: string;
    label: string;
    help: string;
    /** What comes with it, if anything. */
    with: Described | null;
}

export interface Field {
    /** The way to it from the step. */
    path: readonly string[];
    name: string;
    label: string;
    help: string;
    kind:
        | 'flag'
        | 'figure'
        | 'xyz'
        | 'direction'
        | 'plane'
        | 'part'
        | 'parts'
        | 'choice'
        | 'picks'
        | 'group'
        | 'none';
    described: Described;
    /** Of what is picked, what, and whether it is several. */
    asked?: Asked;
    many?: boolean;
    optional: boolean;
    choices: readonly Choice[];
    /** The parameters it stands among. */
    beside?: Described['properties'];
}

const types = (d: Described): readonly string[] => ([] as string[]).concat(d.type ?? []);
export const words = (name: string) => {
    const plain = name.replaceAll('_', ' ');
    return plain.charAt(0).toUpperCase() + plain.slice(1);
};

/** Without the possibility of being left out. */
function held(d: Described): Described {
    const several = d.anyOf?.filter((one) => one.type !== 'null');
    if (!several || several.length !== 1 || several.length === d.anyOf?.length) return d;
    return { ...several[0]!, ...d, anyOf: several[0]!.anyOf };
}

const isOptional = (d: Described) =>
    types(d).includes('null') || !!d.anyOf?.some((one) => one.type === 'null');

const picked: readonly string[] = ['face', 'shells', 'edges', 'points', 'brush', 'rim'];
const asked = (d: Described | undefined): Asked | null =>
    d?.asks && picked.includes(d.asks) ? (d.asks as Asked) : null;

function choicesOf(d: Described): Choice[] {
    if (d.enum)
        return d.enum.map((v) => ({ value: String(v), label: words(String(v)), help: '', with: null }));
    return (d.oneOf ?? []).flatMap((one): Choice[] => {
        if (one.enum) return choicesOf({ enum: one.enum });
        const [value, held] =
            one.const !== undefined ? [String(one.const), null] : Object.entries(one.properties ?? {})[0]!;
        return [{ value, label: one.title ?? words(value), help: one.description ?? '', with: held }];
    });
}

/** How one parameter is drawn. */
export function fieldOf(name: string, path: readonly string[], whole: Described): Field {
    const d = held(whole);
    const base = {
        path,
        name,
        label: d.title ?? words(name),
        help: d.description ?? '',
        described: d,
        optional: isOptional(whole),
        choices: [],
    };
    const is = (kind: string) => types(d).includes(kind);
    const items = d.items && held(d.items);
    if (d.asks === 'none') return { ...base, kind: 'none' };
    if (is('array') && (asked(d) || asked(items)))
        return { ...base, kind: 'picks', asked: (asked(d) ?? asked(items))!, many: true };
    if (asked(d)) return { ...base, kind: 'picks', asked: asked(d)!, many: false };
    if (d.asks === 'plane') return { ...base, kind: 'plane' };
    if (d.asks === 'direction') return { ...base, kind: 'direction' };
    if (d.asks === 'position' || d.asks === 'move' || d.asks === 'size') return { ...base, kind: 'xyz' };
    if (d.asks === 'part') return { ...base, kind: 'part' };
    if (items?.asks === 'part') return { ...base, kind: 'parts' };
    if (is('boolean')) return { ...base, kind: 'flag' };
    if (is('number') || is('integer')) return { ...base, kind: 'figure' };
    const choices = choicesOf(d);
    if (choices.length) return { ...base, kind: 'choice', choices };
    if (is('object') && d.properties) return { ...base, kind: 'group' };
    return { ...base, kind: 'none' };
}

/** The parameters of what is described, in order. */
export const fieldsOf = (d: Described | undefined, path: readonly string[] = []): Field[] =>
    Object.entries(d?.properties ?? {})
        .filter(([name]) => path.length > 0 || (name !== 'kind' && name !== 'keep_lost'))
        .map(([name, own]) => ({ ...fieldOf(name, [...path, name], own), beside: d?.properties }));

/** What stands in a step at the end of a way. */
export const valueAt = (step: unknown, path: readonly string[]): unknown =>
    path.reduce((at, name) => (at as Record<string, unknown> | null | undefined)?.[name], step);

/** A step with something else there. */
export function withAt<T>(step: T, path: readonly string[], value: unknown): T {
    const [name, ...rest] = path;
    if (name === undefined) return value as T;
    const at = step as Record<string, unknown>;
    return { ...at, [name]: withAt(at[name], rest, value) } as T;
}

/** Whether a parameter counts as the step stands. */
export function counts(field: Field, step: unknown): boolean {
    return Object.entries(field.described.when ?? {}).every(([pointer, wanted]) => {
        const way = pointer.split('/').slice(1);
        // What is left out is what it is by default.
        const usual = field.path.length === 1 ? field.beside?.[way[0]!]?.default : undefined;
        const value = valueAt(step, way) ?? usual;
        return typeof wanted === 'boolean' ? !!value === wanted : value === wanted;
    });
}

/** Which of its choices a value is. */
export function chosen(field: Field, value: unknown): Choice | undefined {
    const key = typeof value === 'object' && value !== null ? Object.keys(value)[0] : String(value);
    return field.choices.find((c) => c.value === key);
}

/** What a choice begins with, a plane with the one given; nothing where that has to come from somewhere else. */
export function blank(choice: Choice, plane?: Plane): unknown {
    const d = choice.with && held(choice.with);
    if (!d) return choice.value;
    const inside = startOf(d, plane);
    return inside === undefined ? undefined : { [choice.value]: inside };
}

function startOf(d: Described, plane?: Plane): unknown {
    if (d.default !== undefined) return d.default;
    if (d.asks === 'plane') return plane;
    if (d.asks === 'part') return NO_PART;
    if (types(d).includes('array') && (asked(d) || asked(d.items) || d.items?.asks === 'part')) return [];
    if (d.asks === 'direction') return [0, 0, 1];
    if (d.asks === 'position') return [0, 0, 0];
    if (d.asks === 'move') return [10, 0, 0];
    if (d.asks === 'size') return [10, 10, 10];
    if (asked(d) || d.asks) return undefined;
    if (types(d).includes('boolean')) return false;
    if (types(d).includes('integer')) return Math.max(d.minimum ?? 0, 3);
    if (types(d).includes('number')) return 10;
    const first = choicesOf(d)[0];
    if (first) return blank(first, plane);
    if (!d.properties) return undefined;
    const all = fieldsOf(d, ['']).filter((f) => !f.optional);
    const begun = all.map((f) => [f.name, startOf(f.described, plane)] as const);
    return begun.some(([, v]) => v === undefined) ? undefined : Object.fromEntries(begun);
}

/** What is wrong with a figure, in words; nothing if it may be so. */
export function wrongFigure(d: Described, x: number, per = 1, unit = d.unit ?? ''): string {
    const told = (limit: number) => {
        const shown = Number((limit * per).toPrecision(6));
        return unit === '°' ? `${shown}°` : unit ? `${shown} ${unit}` : `${shown}`;
    };
    if (types(d).includes('integer') && !Number.isInteger(x)) return 'A whole number is needed here';
    if (d.exclusiveMinimum !== undefined && !(x > d.exclusiveMinimum))
        return `Above ${told(d.exclusiveMinimum)}`;
    if (d.minimum !== undefined && x < d.minimum)
        return d.maximum === undefined
            ? d.minimum === 0
                ? 'Not below 0'
                : `At least ${told(d.minimum)}`
            : `From ${d.minimum} to ${told(d.maximum)}`;
    if (d.maximum !== undefined && x > d.maximum) return `At most ${told(d.maximum)}`;
    return d.not?.const === x ? `Not ${told(x)}` : '';
}
