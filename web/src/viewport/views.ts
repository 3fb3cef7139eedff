// Directions of view, and looks of models.
import * as THREE from 'three';
/** How a model is drawn where not as the lens has it. */
export interface Look {
    tint?: string;
    /** Of the material it is made of. */
    colour?: string;
    /** Seen through. */
    ghost?: boolean;
}

export type Direction = 'home' | 'front' | 'back' | 'left' | 'right' | 'top' | 'bottom';
export const directions: Record<Direction, [number, number, number]> = {
    home: [0.75, -1, 0.62],
    front: [0, -1, 0],
    back: [0, 1, 0],
    left: [-1, 0, 0],
    right: [1, 0, 0],
    // A touch off the pole, so that the picture does not spin.
    top: [0, -0.001, 1],
    bottom: [0, -0.001, -1],
};

/** Moves the eye on a ball round what it looks at; z stays up. */
export function turnAbout(eye: THREE.Vector3, target: THREE.Vector3, right: number, up: number) {
    const offset = eye.clone().sub(target);
    const ball = new THREE.Spherical().setFromVector3(new THREE.Vector3(offset.x, offset.z, -offset.y));
    ball.theta += right;
    ball.phi = THREE.MathUtils.clamp(ball.phi - up, 0.01, Math.PI - 0.01);
    const v = new THREE.Vector3().setFromSpherical(ball);
    eye.copy(target).add(new THREE.Vector3(v.x, -v.z, v.y));
}
