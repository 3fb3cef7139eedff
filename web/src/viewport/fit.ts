// How far away a box must be seen from to fit the picture.
import * as THREE from 'three';

/** The least distance from the middle of the box, looking along `towards` (from the box to the eye), at which it fits. */
export function fitDistance(
    box: THREE.Box3,
    towards: THREE.Vector3,
    camera: THREE.PerspectiveCamera,
): number {
    const right = new THREE.Vector3().crossVectors(camera.up, towards).normalize();
    const up = new THREE.Vector3().crossVectors(towards, right);
    const half = box.getSize(new THREE.Vector3()).multiplyScalar(0.5);
    const high = Math.tan(THREE.MathUtils.degToRad(camera.fov / 2));
    let distance = 0;
    for (let corner = 0; corner < 8; corner++) {
        const p = half
            .clone()
            .multiply(new THREE.Vector3(corner & 1 ? 1 : -1, corner & 2 ? 1 : -1, corner & 4 ? 1 : -1));
        const across = Math.abs(p.dot(right)) / (high * camera.aspect);
        distance = Math.max(distance, p.dot(towards) + Math.max(across, Math.abs(p.dot(up)) / high));
    }
    return distance;
}
