// How far a place on the screen is from what is drawn there.
import * as THREE from 'three';

/** The distance in pixels from a place to a chain of points on the screen (z beyond 1 lies behind the viewer). */
export function distanceToChain(chain: THREE.Vector3[], x: number, y: number): number {
    let least = Infinity;
    for (let i = 1; i < chain.length; i++) {
        const [a, b] = [chain[i - 1]!, chain[i]!];
        if (a.z > 1 || b.z > 1) continue;
        const [dx, dy] = [b.x - a.x, b.y - a.y];
        const t = THREE.MathUtils.clamp(((x - a.x) * dx + (y - a.y) * dy) / (dx * dx + dy * dy || 1), 0, 1);
        least = Math.min(least, Math.hypot(a.x + dx * t - x, a.y + dy * t - y));
    }
    return least;
}
