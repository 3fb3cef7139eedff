// What a place on a face is drawn to: its middle, the middles of bores and rounds square to it, its corners, a grid.
import * as THREE from 'three';
import type { Face } from '../api/client';
import type { Xyz } from '../rimRuns';

export interface Snap {
    at: Xyz;
    text: string;
}

const vector = (p: readonly number[]) => new THREE.Vector3(p[0], p[1], p[2]);
const xyz = (p: THREE.Vector3): Xyz => [p.x, p.y, p.z];

/** The named places of a flat face; `borders` are the sides of all faces, end by end. */
export function snapsOf(faces: readonly Face[], id: number, borders: Float32Array): Snap[] {
    const face = faces.find((f) => f.id === id);
    if (face?.surface.kind !== 'plane') return [];
    const normal = vector(face.surface.normal).normalize();
    const middle = vector(face.place.centre);
    const reach = face.place.radius;
    // Places of a plane are on it, whatever they are the middle of.
    const [a, b] = onPlane(borders, normal, middle, reach);
    const origin = a[0] ?? middle;
    const put = (p: THREE.Vector3) =>
        p.clone().sub(normal.clone().multiplyScalar(p.clone().sub(origin).dot(normal)));
    const snaps: Snap[] = [{ at: xyz(put(middle)), text: 'middle' }];
    for (const f of faces) {
        if (f.surface.kind !== 'cylinder') continue;
        const axis = vector(f.surface.axis).normalize();
        const centre = put(vector(f.surface.centre));
        if (Math.abs(axis.dot(normal)) < 0.9998 || centre.distanceTo(middle) > reach * 1.2) continue;
        snaps.push({ at: xyz(centre), text: f.surface.hollow ? 'middle of a bore' : 'middle of a rounding' });
    }
    return [...snaps, ...corners(a, b).map((p) => ({ at: xyz(p), text: 'corner' }))];
}

/** The sides that lie in the plane of a face. */
function onPlane(borders: Float32Array, normal: THREE.Vector3, about: THREE.Vector3, reach: number) {
    const [a, b]: [THREE.Vector3[], THREE.Vector3[]] = [[], []];
    const near = (p: THREE.Vector3, off: number) =>
        Math.abs(p.clone().sub(about).dot(normal) - off) < reach * 1e-5 && p.distanceTo(about) < reach * 1.01;
    let level: number | null = null;
    for (let i = 0; i < borders.length; i += 6) {
        const p = new THREE.Vector3(borders[i], borders[i + 1], borders[i + 2]);
        const q = new THREE.Vector3(borders[i + 3], borders[i + 4], borders[i + 5]);
        const off = p.clone().sub(about).dot(normal);
        if (Math.abs(off) > reach * 0.01) continue;
        level ??= off;
        if (near(p, level) && near(q, level)) {
            a.push(p);
            b.push(q);
        }
    }
    return [a, b] as const;
}

/** Where sides meet at more than a facet's angle. */
function corners(a: readonly THREE.Vector3[], b: readonly THREE.Vector3[]): THREE.Vector3[] {
    const ways = new Map<string, { at: THREE.Vector3; ways: THREE.Vector3[] }>();
    const key = (p: THREE.Vector3) =>
        p
            .toArray()
            .map((x) => x.toFixed(4))
            .join();
    a.forEach((p, i) => {
        const q = b[i]!;
        for (const [from, to] of [
            [p, q],
            [q, p],
        ] as const) {
            const held = ways.get(key(from)) ?? { at: from, ways: [] };
            held.ways.push(to.clone().sub(from).normalize());
            ways.set(key(from), held);
        }
    });
    const turns = (w: THREE.Vector3[]) => w.some((u) => w.every((v) => v === u || Math.abs(u.dot(v)) < 0.9));
    return [...ways.values()].filter((h) => turns(h.ways)).map((h) => h.at);
}

/** The nearest point of a grid on the plane through a point; its lines go through the origin. */
export function onGrid(at: Xyz, normal: Xyz, step: number): Xyz {
    const n = vector(normal).normalize();
    const flat = (axis: THREE.Vector3) => axis.sub(n.clone().multiplyScalar(axis.dot(n)));
    const x = flat(new THREE.Vector3(1, 0, 0));
    const u = (x.length() > 0.1 ? x : flat(new THREE.Vector3(0, 1, 0))).normalize();
    const v = n.clone().cross(u);
    const p = vector(at);
    const to = (w: THREE.Vector3) => Math.round(p.dot(w) / step) * step - p.dot(w);
    return xyz(p.addScaledVector(u, to(u)).addScaledVector(v, to(v)));
}
