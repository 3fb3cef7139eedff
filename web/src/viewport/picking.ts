// How far a place on the screen is from what is drawn there.
import * as THREE from 'three';

/** The distance in pixels from a place to a chain of points on the screen (z beyond 1 lies behind the viewer). */
export const distanceToChain = (chain: THREE.Vector3[], x: number, y: number) =>
    nearestOnChain(chain, x, y).off;

/** The place of a chain nearest to a place on the screen: in which of its pieces, and how far along it. */
export function nearestOnChain(
    chain: THREE.Vector3[],
    x: number,
    y: number,
): { off: number; index: number; share: number } {
    let best = { off: Infinity, index: 0, share: 0 };
    for (let i = 1; i < chain.length; i++) {
        const [a, b] = [chain[i - 1]!, chain[i]!];
        if (a.z > 1 || b.z > 1) continue;
        const [dx, dy] = [b.x - a.x, b.y - a.y];
        const t = THREE.MathUtils.clamp(((x - a.x) * dx + (y - a.y) * dy) / (dx * dx + dy * dy || 1), 0, 1);
        const off = Math.hypot(a.x + dx * t - x, a.y + dy * t - y);
        if (off < best.off) best = { off, index: i - 1, share: t };
    }
    return best;
}
