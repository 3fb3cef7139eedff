// The eye: camera and its movement. What it looks at it is told by the bench.
import * as THREE from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { Xyz } from '../rimRuns';
import { fit } from './fit';
import { directions, turnAbout, type Direction } from './views';

const FLIGHT_MS = 260;
/** Room round a part for rim labels and the controls along the edges. */
const MARGIN = 1.12;

/** Of the circle round a rectangle that is looked at square, as much as its height takes. */
const SQUARE = 0.9;

/** What the eye needs to know of what is shown. */
export interface Seen {
    box: () => THREE.Box3;
    /** Points spread over all of it. */
    points: () => THREE.Vector3[];
    draw: () => void;
}

export class Eye {
    readonly camera = new THREE.PerspectiveCamera(30, 1, 0.1, 10000);
    private readonly controls: OrbitControls;
    private flight = 0;

    constructor(
        private readonly seen: Seen,
        canvas: HTMLElement,
        moving: (on: boolean) => void,
    ) {
        this.camera.up.set(0, 0, 1);
        this.controls = new OrbitControls(this.camera, canvas);
        this.controls.addEventListener('start', () => moving(true));
        this.controls.addEventListener('end', () => moving(false));
        this.controls.addEventListener('change', () => this.seen.draw());
        this.controls.zoomToCursor = true;
    }

    get at(): Xyz {
        return this.camera.position.toArray();
    }

    get distance() {
        return this.camera.position.distanceTo(this.controls.target);
    }

    /** From what is looked at to the eye. */
    get towards() {
        return this.camera.position.clone().sub(this.controls.target).normalize();
    }

    /** How high the picture is at a distance. */
    high(distance: number) {
        return 2 * distance * Math.tan(THREE.MathUtils.degToRad(this.camera.fov / 2));
    }

    /** Half the size of all that is shown. */
    get whole() {
        return this.seen.box().getSize(new THREE.Vector3()).length() / 2;
    }

    /** Looks at everything, from a direction or from where the eye is, as near as the whole of it fits. */
    look(direction: Direction | null, fly = true) {
        const towards = direction ? new THREE.Vector3(...directions[direction]).normalize() : this.towards;
        const points = this.seen.points();
        const { min, max } = this.seen.box();
        const { centre, distance } = fit(points.length ? points : [min, max], towards, this.camera);
        this.move(centre, towards, distance * MARGIN, fly);
    }

    /** Flies to a place, looking at it from a direction. */
    flyTo(centre: THREE.Vector3, radius: number, towards: THREE.Vector3) {
        const half = THREE.MathUtils.degToRad(this.camera.fov / 2);
        const reach = Math.max(radius, this.whole * 0.06) / Math.min(1, this.camera.aspect);
        this.move(centre, towards, reach / Math.sin(half), true);
    }

    /** Looks from another direction at what is there, as near as all of it fits. */
    turnTo(towards: THREE.Vector3) {
        const { centre, distance } = fit(this.seen.points(), towards, this.camera);
        this.move(centre, towards, distance * MARGIN, true);
    }

    /** Looks square at a plane, so that a circle of a radius fits. */
    square(centre: THREE.Vector3, normal: THREE.Vector3, radius: number) {
        const half = THREE.MathUtils.degToRad(this.camera.fov / 2);
        const towards = normal.clone();
        // A touch off the pole, so that the picture does not spin.
        if (Math.hypot(towards.x, towards.y) < 1e-3) towards.y = -1e-3;
        const distance = (radius * SQUARE) / Math.tan(half) / Math.min(1, this.camera.aspect);
        this.move(centre, towards.normalize(), distance, true);
    }

    private move(centre: THREE.Vector3, towards: THREE.Vector3, distance: number, fly: boolean) {
        const to = centre.clone().addScaledVector(towards, distance);
        const calm = matchMedia('(prefers-reduced-motion: reduce)').matches || !fly;
        const [from, target] = [this.camera.position.clone(), this.controls.target.clone()];
        const begin = performance.now();
        cancelAnimationFrame(this.flight);
        const step = () => {
            const t = calm ? 1 : Math.min(1, (performance.now() - begin) / FLIGHT_MS);
            const eased = t * t * (3 - 2 * t);
            this.camera.position.lerpVectors(from, to, eased);
            this.controls.target.lerpVectors(target, centre, eased);
            this.controls.update();
            this.seen.draw();
            if (t < 1) this.flight = requestAnimationFrame(step);
        };
        step();
    }

    /** Turns by keyboard. */
    turn(right: number, up: number) {
        turnAbout(this.camera.position, this.controls.target, right, up);
        this.controls.update();
        this.seen.draw();
    }

    zoom(by: number) {
        this.camera.position.lerp(this.controls.target, 1 - by);
        this.controls.update();
        this.seen.draw();
    }

    /** Whether dragging turns the view. */
    setTurning(on: boolean) {
        this.controls.mouseButtons.LEFT = on ? THREE.MOUSE.ROTATE : undefined;
        this.controls.mouseButtons.RIGHT = on ? THREE.MOUSE.PAN : THREE.MOUSE.ROTATE;
    }

    /** From how near to how far it is drawn: as much as can be seen of what is there. */
    clip() {
        const whole = this.whole;
        const centre = this.seen.box().getCenter(new THREE.Vector3());
        const distance = this.camera.position.distanceTo(centre);
        this.camera.near = Math.max((distance - whole) / 2, whole * 1e-3);
        this.camera.far = distance + whole * 12;
        this.camera.updateProjectionMatrix();
    }

    /** How much of some points is in the picture. */
    share(points: readonly THREE.Vector3[]): number {
        this.camera.updateMatrixWorld();
        const inside = (p: THREE.Vector3) => {
            const q = p.clone().project(this.camera);
            return q.z < 1 && Math.abs(q.x) <= 1 && Math.abs(q.y) <= 1;
        };
        return points.length ? points.filter(inside).length / points.length : 1;
    }
}
