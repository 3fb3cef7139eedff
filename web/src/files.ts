// Files people hand over: one by one, many, or whole folders.

/** The endings of what can be brought in. */
export const ENDINGS = [
    '.stl',
    '.obj',
    '.ply',
    '.off',
    '.3mf',
    '.glb',
    '.gltf',
    '.step',
    '.stp',
    '.stpz',
    '.p21',
    '.dxf',
    '.svg',
] as const;

/** The most files at once: each becomes a part, and a job of more is no longer looked through. */
export const MOST_FILES = 200;
/** Folders within folders, at most. */
const DEEPEST = 8;
/** So many files of folders are looked at; a folder of more is the wrong one. */
const MOST_LOOKED_AT = 10_000;

export interface Handed {
    files: File[];
    /** How many files of folders cannot be read and were passed over. */
    passedOver: number;
    /** How many readable ones were beyond the most. */
    tooMany: number;
}

export const isReadable = (name: string) => ENDINGS.some((ending) => name.toLowerCase().endsWith(ending));

/** Of what was chosen as a folder the files that can be read, by name; what was chosen one by one is taken as it is. */
export function handedOver(chosen: File[], fromFolder: boolean): Handed {
    const readable = fromFolder ? chosen.filter((f) => isReadable(f.name)).sort(byName) : chosen;
    return {
        files: readable.slice(0, MOST_FILES),
        passedOver: chosen.length - readable.length,
        tooMany: Math.max(0, readable.length - MOST_FILES),
    };
}

const byName = (a: File, b: File) => a.name.localeCompare(b.name, 'en', { numeric: true });

/** What was dropped, with all that folders hold. */
export async function dropped(transfer: DataTransfer): Promise<Handed> {
    // The entries are only there until the event is over.
    const entries = [...transfer.items].map((item) => item.webkitGetAsEntry?.() ?? null);
    if (!entries.some((entry) => entry?.isDirectory)) return handedOver([...transfer.files], false);
    const single: File[] = [];
    const held: File[] = [];
    for (const entry of entries) {
        if (entry?.isFile) single.push(await fileOf(entry as FileSystemFileEntry));
        if (entry?.isDirectory) await gather(entry as FileSystemDirectoryEntry, held, DEEPEST);
    }
    const folder = handedOver(held, true);
    const files = [...single, ...folder.files];
    return {
        files: files.slice(0, MOST_FILES),
        passedOver: folder.passedOver,
        tooMany: folder.tooMany + Math.max(0, files.length - MOST_FILES),
    };
}

const fileOf = (entry: FileSystemFileEntry) =>
    new Promise<File>((resolve, reject) => entry.file(resolve, reject));

async function gather(folder: FileSystemDirectoryEntry, into: File[], deep: number): Promise<void> {
    const reader = folder.createReader();
    for (;;) {
        // A browser gives them by the hundred.
        const some = await new Promise<FileSystemEntry[]>((resolve, reject) =>
            reader.readEntries(resolve, reject),
        );
        if (!some.length) return;
        for (const entry of some) {
            if (into.length >= MOST_LOOKED_AT) return;
            if (entry.isFile) into.push(await fileOf(entry as FileSystemFileEntry));
            else if (deep > 1) await gather(entry as FileSystemDirectoryEntry, into, deep - 1);
        }
    }
}

/** What is told of files that do not come in; nothing where all do. */
export function leftOut({ passedOver, tooMany }: Handed): string {
    const files = (n: number) => (n === 1 ? '1 file' : `${n} files`);
    const told: string[] = [];
    if (passedOver) told.push(`${files(passedOver)} of the folder cannot be read here and stayed out.`);
    if (tooMany) told.push(`${files(tooMany)} stayed out: ${MOST_FILES} at once are the most.`);
    return told.join(' ');
}

/** Does something to all of them, a few at a time, in their order. */
export async function fewAtATime<T>(all: T[], few: number, work: (one: T) => Promise<void>): Promise<void> {
    const waiting = [...all];
    const hand = async () => {
        for (let one = waiting.shift(); one !== undefined; one = waiting.shift()) await work(one);
    };
    await Promise.all(Array.from({ length: Math.min(few, all.length) }, hand));
}
