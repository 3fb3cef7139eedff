// Rings that point to a place.
import * as THREE from 'three';
import { lineGeometry, lineMaterial } from './materials';

const STEPS = 96;

/** A brass ring round a place, always facing the viewer. */
export function markRing(centre: THREE.Vector3, radius: number, camera: THREE.Camera): THREE.Mesh {
    const at = (k: number) => {
        const angle = (k / STEPS) * 2 * Math.PI;
        return [Math.cos(angle) * radius, Math.sin(angle) * radius, 0];
    };
    const pairs = new Float32Array(Array.from({ length: STEPS }, (_, k) => [...at(k), ...at(k + 1)]).flat());
    const ring = new THREE.Mesh(
        lineGeometry(pairs),
        lineMaterial({ colour: '#A8761F', width: 4, over: true }),
    );
    ring.position.copy(centre);
    ring.renderOrder = 12;
    ring.frustumCulled = false;
    ring.onBeforeRender = () => {
        ring.quaternion.copy(camera.quaternion);
        ring.updateMatrixWorld();
    };
    return ring;
}
