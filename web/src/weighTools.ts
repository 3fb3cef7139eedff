// The tools of Weigh that are steps.
import { useBench } from './stores/bench';
import { useJob } from './stores/job';
import type { Tool } from './tools';

/** The shrinkage of the part's material, percent. */
function shrinkage(): number {
    const held = useBench().part?.material;
    return held?.own?.shrinkage ?? useJob().materials.find((m) => m.key === held?.material)?.shrinkage ?? 0;
}

export const weighTools: Tool[] = [
    {
        key: 'scale_pattern',
        station: 'weigh',
        name: 'Pattern scale',
        hint: 'The pattern is made larger by what its metal shrinks by, once',
        action: () => {
            const by = shrinkage() || 1.5;
            return { kind: 'weigh.scale_pattern', shrinkage: [by, by, by] };
        },
    },
];
