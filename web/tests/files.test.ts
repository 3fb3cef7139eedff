import { expect, test } from 'vitest';
import { dropped, fewAtATime, handedOver, isReadable, leftOut, MOST_FILES } from '../src/files';

const file = (name: string) => new File(['x'], name);
const names = (files: File[]) => files.map((f) => f.name);

/** A folder as a browser hands it over when it is dropped: a few entries at a time. */
function folder(name: string, held: object[]): object {
    const createReader = () => {
        const left = [...held];
        return { readEntries: (give: (some: object[]) => void) => give(left.splice(0, 2)) };
    };
    return { name, isFile: false, isDirectory: true, createReader };
}
const entry = (name: string) => ({
    name,
    isFile: true,
    isDirectory: false,
    file: (give: (f: File) => void) => give(file(name)),
});
const drop = (...entries: object[]) =>
    ({
        items: entries.map((e) => ({ webkitGetAsEntry: () => e })),
        files: entries.filter((e) => 'file' in e).map((e) => file(String((e as { name?: string }).name))),
    }) as unknown as DataTransfer;

test('of a folder what can be read comes in, by name, and the rest is told', async () => {
    const deep = folder('old', [entry('rib-10.STL'), entry('notes.txt'), entry('rib-9.stl')]);
    const got = await dropped(drop(folder('job', [entry('b.step'), deep, entry('a.3mf'), entry('.hidden')])));
    expect(names(got.files)).toEqual(['a.3mf', 'b.step', 'rib-9.stl', 'rib-10.STL']);
    expect(leftOut(got)).toBe('2 files of the folder cannot be read here and stayed out.');
});

test('files dropped one by one are taken as they are: what is wrong with them is told by who reads them', async () => {
    const got = await dropped(drop(entry('z.stl'), entry('a.txt')));
    expect(names(got.files)).toEqual(['z.stl', 'a.txt']);
    expect(leftOut(got)).toBe('');
    const mixed = await dropped(drop(entry('a.txt'), folder('f', [entry('b.txt'), entry('c.ply')])));
    expect(names(mixed.files)).toEqual(['a.txt', 'c.ply']);
});

test('folders within folders and files without end stop somewhere', async () => {
    let nest = folder('deepest', [entry('never.stl')]);
    for (let n = 0; n < 30; n += 1) nest = folder(`f${n}`, [nest, entry(`p${n}.stl`)]);
    expect((await dropped(drop(nest))).files.length).toBe(8);
    const many = Array.from({ length: MOST_FILES + 3 }, (_, n) => file(`part-${n}.stl`));
    const got = handedOver(many, true);
    expect([got.files.length, got.files[10]!.name]).toEqual([MOST_FILES, 'part-10.stl']);
    expect(leftOut(got)).toBe('3 files stayed out: 200 at once are the most.');
    expect(isReadable('A.STEP') && !isReadable('step') && !isReadable('a.stl.zip')).toBe(true);
});

test('a few are worked on at a time, and all of them', async () => {
    let busy = 0;
    let most = 0;
    const done: number[] = [];
    const work = async (n: number) => {
        busy += 1;
        most = Math.max(most, busy);
        await new Promise((resolve) => setTimeout(resolve, (n * 7) % 5));
        busy -= 1;
        done.push(n);
    };
    const all = Array.from({ length: 20 }, (_, n) => n);
    await fewAtATime(all, 3, work);
    expect(most).toBe(3);
    expect([...done].sort((a, b) => a - b)).toEqual(all);
    await fewAtATime([], 3, work);
});
