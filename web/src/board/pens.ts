// The pens, as they stand on the worksheet: picture, word, key.
import type { Aim, Pen } from '../stores/pen';

export interface PenFacts {
    pen: Pen;
    name: string;
    key: string;
    /** Drawn in a square of 24. */
    picture: string;
    /** What the clicks are. */
    hint: string;
}

export const pens: readonly PenFacts[] = [
    {
        pen: 'chain',
        name: 'Chain',
        key: 'l',
        picture: 'M3 19L9 7L15 15A5 5 0 0 0 21 8',
        hint: 'Click from point to point; drag for an arc (or t). Enter ends it, a click on its beginning closes it.',
    },
    {
        pen: 'arc',
        name: 'Arc',
        key: 'a',
        picture: 'M4 18A11 11 0 0 1 20 18',
        hint: 'Beginning, end, then how far it stands out.',
    },
    {
        pen: 'circle',
        name: 'Circle',
        key: 'o',
        picture: 'M12 4a8 8 0 1 0 .01 0M12 11v2M11 12h2',
        hint: 'Centre, then rim; or type its diameter.',
    },
    {
        pen: 'frame',
        name: 'Frame',
        key: 'q',
        picture: 'M4 9a3 3 0 0 1 3-3H17a3 3 0 0 1 3 3V15a3 3 0 0 1-3 3H7a3 3 0 0 1-3-3Z',
        hint: 'Corner to corner; Tab goes on to height and corner radius.',
    },
    {
        pen: 'slot',
        name: 'Slot',
        key: 's',
        picture: 'M8 8H16a4 4 0 0 1 0 8H8a4 4 0 0 1 0-8Z',
        hint: 'Middle of one end, middle of the other; then its width.',
    },
    {
        pen: 'polygon',
        name: 'Polygon',
        key: 'g',
        picture: 'M12 3.5L19.4 7.8V16.2L12 20.5L4.6 16.2V7.8Z',
        hint: 'Centre, then a corner; Tab goes on to the number of sides.',
    },
    {
        pen: 'ellipse',
        name: 'Ellipse',
        key: 'e',
        picture: 'M12 6.5c5 0 9 2.5 9 5.5s-4 5.5-9 5.5s-9-2.5-9-5.5s4-5.5 9-5.5',
        hint: 'Centre, then how wide and high.',
    },
    {
        pen: 'curve',
        name: 'Curve',
        key: 'v',
        picture: 'M3 16C6 4 9 4 12 12S18 20 21 8',
        hint: 'Click the points it goes through. Enter ends it, a click on its beginning closes it.',
    },
    {
        pen: 'spiral',
        name: 'Spiral',
        key: 'i',
        picture: 'M12 12c1-2 4-1 4 1.5S12.5 18 9.5 16.5 6 10 9 7.5s9-1.500 11 4',
        hint: 'Centre, then where it begins; Tab goes on to pitch and turns.',
    },
];

export const aims: readonly { aim: Aim; name: string; hint: string }[] = [
    {
        aim: 'cut_back',
        name: 'Cut back',
        hint: 'Click what is to go, as far as the next crossings, or draw a stroke through several.',
    },
    { aim: 'carry_on', name: 'Carry on', hint: 'Click near the end that is to go on to the next line.' },
    { aim: 'split', name: 'Split', hint: 'Click the place where a line is to become two.' },
    { aim: 'keep_region', name: 'Keep region', hint: 'Click into a region: only what bounds it stays.' },
    {
        aim: 'flow',
        name: 'Flow',
        hint: 'Click two ends: a piece goes on smoothly from both, in curvature too.',
    },
    { aim: 'letters', name: 'Letters', hint: 'Click where the letters stand.' },
    {
        aim: 'hold',
        name: 'Hold',
        hint: 'Click one or two ends, centres or lines; then what is to be held of them: a figure or a rule.',
    },
    { aim: 'corner', name: 'One corner', hint: 'Click the corner that is to be softened.' },
];
