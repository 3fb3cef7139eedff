// The pages of the manual as the bench reads them.
import { expect, test } from 'vitest';
import { manual, sections } from '../src/manual';
import { stops } from '../src/walk';

test('a section is told apart into prose, picture and recipe', () => {
    const text =
        '# Page\n\nNot a tool.\n\n## Union\n\n`union`\n\nSeveral **become** one.\n\n![Union](pictures/union.png)\n\n```json on Vent cowl\n[{ "kind": "seal.plan" }]\n```\n\n## Saw\n\n`saw`\n\nCuts.\n';
    const [union, saw, ...more] = sections(text, { union: '/u.png' });
    expect(more).toEqual([]);
    expect(union).toMatchObject({ key: 'union', name: 'Union', picture: '/u.png', on: 'Vent cowl' });
    expect(union!.recipe).toBe('[{ "kind": "seal.plan" }]');
    expect(union!.prose.trim()).toBe('<p>Several <strong>become</strong> one.</p>');
    expect(saw).toMatchObject({ key: 'saw', recipe: '', on: '', picture: undefined });
});

test('every page has prose, a picture and a recipe that is JSON', async () => {
    const pages = await manual();
    expect(pages.size).toBeGreaterThan(50);
    for (const page of pages.values()) {
        expect(page.prose, page.key).toContain('Goes wrong');
        expect(page.picture, page.key).toBeTruthy();
        expect(Array.isArray(JSON.parse(page.recipe)), page.key).toBe(true);
    }
});

test('stops of the walk are done when what they ask for is there', () => {
    const part = { figures: { state: 'open' }, mass: null } as never;
    const before = { part, finding: false, bored: false, released: false };
    const asked = stops.filter((s) => s.does);
    expect(asked.every((s) => !s.done(before))).toBe(true);
    const sealed = { figures: { state: 'sealed' }, mass: 9 } as never;
    expect(stops.every((s) => s.done({ part: sealed, finding: true, bored: true, released: true }))).toBe(
        true,
    );
});
