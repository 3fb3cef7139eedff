// Where to stand so that everything shown just fits the picture.
import * as THREE from 'three';

/** The place to look at and the least distance from it, looking along `towards` (from there to the eye), at which all
 * points fit. */
export function fit(
    points: readonly THREE.Vector3[],
    towards: THREE.Vector3,
    camera: THREE.PerspectiveCamera,
): { centre: THREE.Vector3; distance: number } {
    const right = new THREE.Vector3().crossVectors(camera.up, towards).normalize();
    const up = new THREE.Vector3().crossVectors(towards, right);
    const seen = points.map((p) => new THREE.Vector3(p.dot(right), p.dot(up), p.dot(towards)));
    const middle = new THREE.Box3().setFromPoints(seen).getCenter(new THREE.Vector3());
    const high = Math.tan(THREE.MathUtils.degToRad(camera.fov / 2));
    let distance = 0;
    for (const p of seen) {
        p.sub(middle);
        distance = Math.max(distance, p.z + Math.max(Math.abs(p.x) / camera.aspect, Math.abs(p.y)) / high);
    }
    const centre = right
        .multiplyScalar(middle.x)
        .addScaledVector(up, middle.y)
        .addScaledVector(towards, middle.z);
    return { centre, distance };
}
