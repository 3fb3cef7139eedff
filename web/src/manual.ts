// The manual that stands in docs/manual: half a page for each tool.
import { marked } from 'marked';

export interface Page {
    key: string;
    name: string;
    /** What it does, when to take it and what goes wrong, as HTML. */
    prose: string;
    /** What it looks like before and after, if there is a picture. */
    picture?: string;
    /** Steps of a recipe that does it, and the demo part they are for. */
    recipe: string;
    on: string;
}

/** The sections of a page of the manual; `pictures` by the key of their tool. */
export function sections(text: string, pictures: Readonly<Record<string, string>> = {}): Page[] {
    return text
        .split('\n## ')
        .slice(1)
        .map((part) => {
            const [name = '', ...rest] = part.split('\n');
            const body = rest.join('\n');
            const key = body.match(/`([a-z_]+)`/)?.[1] ?? '';
            const [, on = '', recipe = ''] = body.match(/```json(?: on ([^\n]+))?\n([^]*?)```/) ?? [];
            const told = body.replace(/```[^]*?```/g, '').replace(/!\[[^\]]*\]\([^)]*\)/g, '');
            const prose = marked.parse(told.replace(`\`${key}\``, ''), { async: false });
            return { key, name: name.trim(), prose, picture: pictures[key], recipe: recipe.trim(), on };
        });
}

const pages = import.meta.glob<string>('../../docs/manual/*.md', { query: '?raw', import: 'default' });
const pictures = import.meta.glob<string>('../../docs/manual/pictures/*.png', {
    query: '?url',
    import: 'default',
    eager: true,
});
const byKey = Object.fromEntries(
    Object.entries(pictures).map(([path, url]) => [path.replace(/^.*\/|\.png$/g, ''), url]),
);
let all: Promise<ReadonlyMap<string, Page>> | undefined;

/** All pages by the key of their tool, read when they are asked for first. */
export const manual = () =>
    (all ??= Promise.all(Object.values(pages).map((read) => read())).then(
        (texts) => new Map(texts.flatMap((text) => sections(text, byKey)).map((page) => [page.key, page])),
    ));
