// Words for people that stand in more than one place.
import {
    mdiAlertOctagonOutline,
    mdiCubeOutline,
    mdiCheckDecagramOutline,
    mdiFlipHorizontal,
    mdiInformationOutline,
    mdiNut,
    mdiProgressAlert,
    mdiScaleBalance,
    mdiSelectionDrag,
    mdiShapeOutline,
    mdiTrayArrowDown,
    mdiTruckDeliveryOutline,
    mdiAlertOutline,
    mdiVectorDifference,
    mdiVectorCurve,
    mdiVectorPolygon,
    mdiWaterOffOutline,
} from '@mdi/js';
import type { Figures, Finding, Part } from './api/client';

export type StationKey = 'bring' | 'shape' | 'seal' | 'wall' | 'weigh' | 'fasten' | 'release';

export interface Station {
    key: StationKey;
    /** Its place on the route. */
    number: number;
    name: string;
    hint: string;
    icon: string;
}

export const stations: Station[] = [
    { key: 'bring', number: 1, name: 'Bring in', hint: 'Files become parts', icon: mdiTrayArrowDown },
    { key: 'shape', number: 2, name: 'Shape', hint: 'Add, take away, cut, place', icon: mdiCubeOutline },
    { key: 'seal', number: 3, name: 'Seal', hint: 'Find and mend what is open', icon: mdiWaterOffOutline },
    {
        key: 'wall',
        number: 4,
        name: 'Wall',
        hint: 'Thicken, hollow, coat, measure',
        icon: mdiVectorDifference,
    },
    { key: 'weigh', number: 5, name: 'Weigh', hint: 'Volume, mass, capacity, cuts', icon: mdiScaleBalance },
    { key: 'fasten', number: 6, name: 'Fasten', hint: 'Bores, threads, inserts', icon: mdiNut },
    { key: 'release', number: 7, name: 'Release', hint: 'Prove and hand out', icon: mdiTruckDeliveryOutline },
];

export interface StateLook {
    word: string;
    icon: string;
    colour: string;
}

export const states: Record<Figures['state'], StateLook> = {
    open: { word: 'open', icon: mdiSelectionDrag, colour: 'hazard' },
    tangled: { word: 'tangled', icon: mdiShapeOutline, colour: 'error' },
    flipped: { word: 'flipped', icon: mdiFlipHorizontal, colour: 'inside' },
    sealed: { word: 'sealed', icon: mdiCheckDecagramOutline, colour: 'success' },
};

export const profileIcon = mdiVectorPolygon;
const profile: StateLook = { word: 'profile', icon: profileIcon, colour: 'info' };
export const wire: StateLook = { word: 'wire', icon: mdiVectorCurve, colour: 'info' };

/** How something with these figures stands. */
export const lookOf = (figures: Figures) =>
    figures.wire ? wire : figures.drawn ? profile : states[figures.state];

/** How a part stands: a stopped step comes before what the part is without it. */
export const stateOf = (part: Part): StateLook & { title: string } =>
    part.stopped == null
        ? { ...lookOf(part.figures), title: part.figures.reason }
        : {
              word: 'stopped',
              icon: mdiProgressAlert,
              colour: 'error',
              title: `stopped at step ${part.stopped}; before it ${part.figures.reason}`,
          };

export const severities: Record<Finding['severity'], { word: string; icon: string; colour: string }> = {
    blocks: { word: 'blocks a solid', icon: mdiAlertOctagonOutline, colour: 'error' },
    warns: { word: 'may go wrong later', icon: mdiAlertOutline, colour: 'warning' },
    notes: { word: 'worth knowing', icon: mdiInformationOutline, colour: 'info' },
};

export type Lens = 'plain' | 'rims' | 'sides' | 'xray' | 'wall' | 'deviation';

export const lenses: { key: Lens; name: string; hint: string }[] = [
    { key: 'plain', name: 'Plain', hint: 'The part as it is' },
    { key: 'rims', name: 'Rims', hint: 'Naked edges stand out, the rest steps back' },
    { key: 'sides', name: 'Inside / outside', hint: 'Outside pewter, inside verdigris and hatched' },
    { key: 'xray', name: 'X-ray', hint: 'See through to what is inside' },
    { key: 'wall', name: 'Wall', hint: 'How thick it is; what is too thin is hatched' },
    { key: 'deviation', name: 'Deviation', hint: 'How far the part lies from what came in' },
];

export const keyList: [string, string][] = [
    ['1 … 7', 'Open a station of the route'],
    ['n / Shift n', 'Next / previous finding'],
    ['z', 'Zoom to what is selected'],
    ['f / Shift f', 'Next / previous place that can be picked: faces, corners of rims, chambers'],
    ['Space', 'Pick it'],
    ['h / Shift h', 'Hide the part / show all parts'],
    ['o', 'Show only this part'],
    ['p', 'The list of parts'],
    ['x', 'X-ray on or off'],
    ['c', 'Sections on or off'],
    [', .', 'Move the active section'],
    ['Arrows, + −', 'Turn the view, zoom'],
    ['l a o q s g e v i', 'On a board: the pens, as they stand on the worksheet; t bends a chain'],
    ['Figures, Tab, Enter', 'While drawing: a figure of the slip, the next one, as it stands'],
    ['k', 'Look square at the board'],
    ['Enter', 'Apply the open tool, wherever the focus is but in a text of several lines or an open list'],
    ['b held', 'The part as it was before the forecast'],
    ['Esc', 'Close the list, then the tool, then the finding'],
    ['Ctrl z / Ctrl Shift z', 'Undo / redo'],
    ['Ctrl k', 'Search tools, parts, findings, settings'],
    ['?', 'This list'],
];

export const mouseList: [string, string][] = [
    ['Click', 'Pick what the open tool asks for; else choose a part, a rim, a face'],
    ['Drag', 'Turn the view; with a brush: paint'],
    ['Right click', 'Name, colour, copies of a part'],
    ['Right drag', 'Move the view aside; with a brush: turn it'],
    ['Wheel', 'Nearer or farther, about the pointer'],
    ['Double click', 'Look at all of it, or at the chosen finding'],
    ['Drag a handle', 'Change the figure it stands for'],
];

/** Whether a file by its name holds exact surfaces. */
export const isExact = (file: string) => /\.(step|stp|stpz|p21)$/i.test(file);

/** Whether a file by its name may tell of colours, materials or named groups of triangles. */
export const mayTellGroups = (file: string) => /\.(stl|obj|ply|3mf|glb|gltf)$/i.test(file);

export const unitNames = {
    auto: 'As the file says, or by size',
    millimetre: 'Millimetres (mm)',
    centimetre: 'Centimetres (cm)',
    metre: 'Metres (m)',
    inch: 'Inches (in)',
} as const;

export const materialGroups = {
    casting_metal: 'Casting metals',
    printing_polymer: 'Printing polymers',
    resin: 'Resins',
    pattern: 'Patterns',
    liquid: 'Liquids',
} as const;
