// Where the names of rims and places stand.
import * as THREE from 'three';
import type { RimDrawing } from './model';

/** A named place that is not a rim: a gap, a T-junction, a tangle. */
export interface Spot {
    key: string;
    name: string;
    part: number;
    centre: THREE.Vector3;
    radius: number;
}

export interface Label {
    text: string;
    x: number;
    y: number;
    key: string;
    spot: boolean;
}

/** More labels than this tell nothing. */
const MOST = 60;
/** So many are shown however small what they name is on the screen; more only while it is at least so large, in pixels. */
const FEW = 14;
const LEAST_SIZE = 16;

type Project = (p: THREE.Vector3) => THREE.Vector3;

/** Where a rim's label stands: above its highest point that can be seen; with the rim's size on the screen. */
function overRim(rim: RimDrawing, project: Project) {
    const box = new THREE.Box2();
    let top: THREE.Vector3 | null = null;
    for (const p of rim.points) {
        const q = project(p);
        if (q.z >= 1) continue;
        box.expandByPoint(new THREE.Vector2(q.x, q.y));
        if (!top || q.y < top.y) top = q;
    }
    return top && { x: top.x, y: top.y - 18, size: box.getSize(new THREE.Vector2()).length() };
}

/** Beside the middle of a place. */
function atSpot(spot: Spot, project: Project, across: (at: THREE.Vector3, length: number) => number) {
    const q = project(spot.centre);
    return q.z < 1 ? { x: q.x, y: q.y - 18, size: 2 * across(spot.centre, spot.radius) } : null;
}

/**
 * Labels that do not overlap, rims first, the longest first. From farther away fewer: what has shrunk to a few pixels keeps
 * its name only while there are few names.
 */
export function placeLabels(
    rims: { part: number; rim: RimDrawing }[],
    spots: Spot[],
    project: Project,
    camera: THREE.PerspectiveCamera,
    { width, height }: { width: number; height: number },
): Label[] {
    const placed: Label[] = [];
    const high = 2 * Math.tan(THREE.MathUtils.degToRad(camera.fov / 2));
    const across = (at: THREE.Vector3, length: number) =>
        (length * height) / (high * camera.position.distanceTo(at));
    const free = (x: number, y: number) =>
        placed.every((l) => Math.abs(l.x - x) > 34 || Math.abs(l.y - y) > 22);
    const place = (at: { x: number; y: number; size: number } | null, label: Omit<Label, 'x' | 'y'>) => {
        if (!at || at.x < 20 || at.x > width - 20 || at.y < 44 || at.y > height - 10) return;
        if (placed.length >= FEW && at.size < LEAST_SIZE) return;
        if (free(at.x, at.y)) placed.push({ ...label, x: at.x, y: at.y });
    };
    for (const { part, rim } of rims) {
        if (placed.length >= MOST) return placed;
        place(overRim(rim, project), { text: rim.name, key: `${part}-${rim.name}`, spot: false });
    }
    for (const spot of spots) {
        if (placed.length >= MOST) return placed;
        place(atSpot(spot, project, across), { text: spot.name, key: spot.key, spot: true });
    }
    return placed;
}
