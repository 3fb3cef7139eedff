// Where rim labels stand.
import type * as THREE from 'three';
import type { RimDrawing } from './model';

export interface Label {
    text: string;
    x: number;
    y: number;
    key: string;
}

/** More labels than this tell nothing. */
const MOST = 60;

/** Labels that do not overlap, above the highest point of each rim; the longest rims first. */
export function placeLabels(
    rims: { part: number; rim: RimDrawing }[],
    project: (p: THREE.Vector3) => THREE.Vector3,
    { width, height }: { width: number; height: number },
): Label[] {
    const placed: Label[] = [];
    for (const { part, rim } of rims) {
        let top: THREE.Vector3 | null = null;
        for (const p of rim.points) {
            const q = project(p);
            if (q.z < 1 && (!top || q.y < top.y)) top = q;
        }
        if (!top || top.x < 20 || top.x > width - 20 || top.y < 30 || top.y > height - 10) continue;
        const label = { text: rim.name, x: top.x, y: top.y - 18, key: `${part}-${rim.name}` };
        if (placed.every((l) => Math.abs(l.x - label.x) > 34 || Math.abs(l.y - label.y) > 22))
            placed.push(label);
        if (placed.length >= MOST) break;
    }
    return placed;
}
