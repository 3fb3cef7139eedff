// The places that findings name, besides rims.
import * as THREE from 'three';
import type { Finding } from '../api/client';
import type { Spot } from './labels';

const NAMED = new Set<Finding['kind']>([
    'gap',
    't_junction',
    'partly_shared',
    'tangle',
    'stray',
    'void',
    'touch_point',
    'thin_wall',
    'thin_pin',
    'narrow_slot',
    'inner_corner',
    'feather',
    'uneven_rounding',
    'overlap',
    'too_close',
]);
/** As many as can ever stand beside each other. */
const MOST = 400;

/** The named places of a part, the worst first. */
export function spotsOf(part: number, findings: readonly Finding[]): Spot[] {
    return findings
        .filter((f) => NAMED.has(f.kind))
        .slice(0, MOST)
        .flatMap((f) => {
            const name = f.title.match(/[A-Z]\d+/)?.[0];
            const { centre, radius } = f.place;
            return name
                ? [{ key: `${part}-${f.key}`, name, part, centre: new THREE.Vector3(...centre), radius }]
                : [];
        });
}
