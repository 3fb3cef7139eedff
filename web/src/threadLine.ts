// A marked thread as it is drawn: the line of its ridge, a hair off the wall.
import * as THREE from 'three';
import type { Schemas } from './api/client';
import type { Xyz } from './rimRuns';

/** Points to a turn, and the most turns that are drawn; a longer thread is drawn with its own pitch as far as that. */
const ROUND = 48;
const MOST_TURNS = 40;

/** The thread where its wall is now: steps after its own may have moved the part. */
export function onWall(
    mark: Schemas['ThreadMark'],
    surface: Schemas['FaceSurface'] | undefined,
): Schemas['ThreadMark'] {
    if (surface?.kind !== 'cylinder') return mark;
    const [at, way] = [new THREE.Vector3(...mark.at), new THREE.Vector3(...mark.way)];
    const [axis, centre] = [new THREE.Vector3(...surface.axis), new THREE.Vector3(...surface.centre)];
    if (axis.dot(way) < 0) axis.negate();
    const off = centre
        .clone()
        .sub(at)
        .addScaledVector(way, -mark.length / 2);
    const along = off.dot(axis);
    const aside = off.addScaledVector(axis, -along).length();
    // The middle of the wall is not quite that of the thread where lead-ins or a blind end take some of it.
    const there = axis.dot(way) > 0.9999 && aside < mark.radius * 0.01 && Math.abs(along) < mark.length * 0.3;
    if (there) return mark;
    return { ...mark, way: axis.toArray(), at: centre.addScaledVector(axis, -mark.length / 2).toArray() };
}

export function threadLine(mark: Schemas['ThreadMark']): Xyz[] {
    const way = new THREE.Vector3(...mark.way);
    const u = new THREE.Vector3(Math.abs(way.x) < 0.9 ? 1 : 0, Math.abs(way.x) < 0.9 ? 0 : 1, 0);
    u.addScaledVector(way, -u.dot(way)).normalize();
    const v = new THREE.Vector3().crossVectors(way, u);
    const radius = mark.radius * (mark.gender === 'internal' ? 0.995 : 1.006);
    const hand = mark.thread.left ? -1 : 1;
    // Lead-ins at both ends are left out.
    const turns = Math.min(Math.max(mark.length / mark.pitch - 1, 0.5), MOST_TURNS);
    return Array.from({ length: Math.ceil(turns * ROUND) + 1 }, (_, k) => {
        const turn = Math.min(k / ROUND, turns);
        const angle = turn * 2 * Math.PI * hand;
        const p = new THREE.Vector3(...mark.at)
            .addScaledVector(way, (turn + 0.5) * mark.pitch)
            .addScaledVector(u, Math.cos(angle) * radius)
            .addScaledVector(v, Math.sin(angle) * radius);
        return p.toArray();
    });
}
