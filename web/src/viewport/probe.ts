// What lies at a place on the screen: parts, faces, rims, borders, the top of a dome.
import * as THREE from 'three';
import { snapsOf, type RimLine, type Snap, type Xyz } from '../rimRuns';
import type { Model } from './model';
import { distanceToChain, nearestOnChain } from './picking';

/** How near to a rim or an edge a click must be, pixels. */
const PICK_PIXELS = 9;
/** From how far a pick is drawn to a corner, a middle, an opposite point, pixels. */
const SNAP_PIXELS = 14;

/** Ways steeper than this (sine of the height) spin the picture. */
const STEEP = 0.985;
/** Ways that are tried to see a place: about 12 degrees apart. */
const WAYS = 240;

/** Ways spread evenly over a ball, those nearest to a given one first. */
function waysAbout(meant: THREE.Vector3): THREE.Vector3[] {
    const golden = Math.PI * (3 - Math.sqrt(5));
    const ways = Array.from({ length: WAYS }, (_, i) => {
        const z = 1 - (2 * i + 1) / WAYS;
        const r = Math.sqrt(1 - z * z);
        return new THREE.Vector3(r * Math.cos(i * golden), r * Math.sin(i * golden), z);
    });
    return ways.sort((a, b) => b.dot(meant) - a.dot(meant));
}

/** A place on a surface. */
export interface Hit {
    part: number;
    face: number;
    at: Xyz;
    /** The way the surface faces there. */
    normal: Xyz;
    /** What is drawn there besides: distance or thickness, mm. */
    off: number | null;
    distance: number;
}

/** What the probe needs of the bench. */
export interface Stage {
    camera: THREE.PerspectiveCamera;
    /** Everything drawn: forecasts stand in the place of their parts. */
    shown: () => [number, Model][];
    /** The parts as they are. */
    models: () => Map<number, Model>;
    preview: () => { model: Model; instead: number } | null;
    size: () => { width: number; height: number };
    project: (p: THREE.Vector3) => THREE.Vector3;
    box: () => THREE.Box3;
    /** What lies behind one of these is cut away: it is seen through. */
    cutAway: () => readonly THREE.Plane[];
}

export class Probe {
    constructor(private readonly stage: Stage) {}

    /** The rim at a place on the screen, and else the part. */
    pick(
        x: number,
        y: number,
    ): { rim: string | null; part: number; face: number | null; off: number | null } | null {
        let best: { rim: string; part: number } | null = null;
        let nearest = PICK_PIXELS;
        for (const [part, model] of this.stage.shown()) {
            for (const rim of model.rims) {
                const d = distanceToChain(
                    rim.points.map((q) => this.stage.project(q)),
                    x,
                    y,
                );
                if (d < nearest) [nearest, best] = [d, { rim: rim.name, part }];
            }
        }
        if (best) return { ...best, face: null, off: null };
        const hit = this.hit(x, y, this.stage.shown());
        return hit && { rim: null, part: hit.part, face: hit.face, off: hit.off };
    }

    /** Where the line of sight through a place on the screen first meets one of the models. */
    private hit(x: number, y: number, among: [number, Model][]): Hit | null {
        const ray = new THREE.Raycaster();
        const planes = this.stage.cutAway();
        ray.firstHitOnly = !planes.length;
        const seen = (p: THREE.Vector3) => planes.every((plane) => plane.distanceToPoint(p) >= 0);
        const { width, height } = this.stage.size();
        ray.setFromCamera(new THREE.Vector2((x / width) * 2 - 1, 1 - (y / height) * 2), this.stage.camera);
        let hit: Hit | null = null;
        for (const [part, model] of among) {
            model.preparePicking();
            const found = model.surface
                ? ray.intersectObject(model.surface).find((h) => seen(h.point))
                : undefined;
            if (found && (!hit || found.distance < hit.distance))
                hit = {
                    part,
                    face: model.faceOf(found.faceIndex ?? 0),
                    at: found.point.toArray(),
                    off: model.offAt(found.faceIndex ?? 0),
                    normal: (found.face?.normal.toArray() ?? [0, 0, 1]) as Xyz,
                    distance: found.distance,
                };
        }
        return hit;
    }

    /** The way from a place, the nearest to one that is meant, on which nothing shown lies within sight: that itself where there is none. */
    clearWay(from: THREE.Vector3, meant: THREE.Vector3, slack: number): THREE.Vector3 {
        const seen = (way: THREE.Vector3) => {
            const ray = new THREE.Raycaster(from.clone().addScaledVector(way, slack), way);
            ray.firstHitOnly = true;
            return this.stage.shown().every(([id, model]) => {
                model.preparePicking();
                return id < 0 || !model.surface || !ray.intersectObject(model.surface).length;
            });
        };
        if (seen(meant)) return meant;
        return (
            waysAbout(meant)
                .filter((w) => Math.abs(w.z) < STEEP)
                .find(seen) ?? meant
        );
    }

    /** The surface of a part at a place on the screen, as the part is, whatever is forecast for it. */
    surfaceAt(x: number, y: number, part: number): Hit | null {
        const model = this.stage.models().get(part);
        return model ? this.hit(x, y, [[part, model]]) : null;
    }

    /** The surface of any part at a place on the screen, as the parts are. */
    anySurfaceAt(x: number, y: number): Hit | null {
        return this.hit(
            x,
            y,
            [...this.stage.models()].filter(([id]) => id >= 0),
        );
    }

    /** The further part of a forecast at a place on the screen, by its place among them. */
    madeAt(x: number, y: number): number | null {
        const made = [...this.stage.models()].filter(([id]) => id < 0);
        const hit = this.hit(x, y, made);
        return hit && -1 - hit.part;
    }

    /** The direction of sight, and the middle of what is shown. */
    sight(): { along: Xyz; about: Xyz } {
        return {
            along: this.stage.camera.getWorldDirection(new THREE.Vector3()).toArray() as Xyz,
            about: this.stage.box().getCenter(new THREE.Vector3()).toArray() as Xyz,
        };
    }

    /** Where the line of sight through a place on the screen goes through the plane about a point, square to a direction. */
    onPlane(x: number, y: number, about: Xyz, normal: Xyz): Xyz | null {
        const ray = new THREE.Raycaster();
        const { width, height } = this.stage.size();
        ray.setFromCamera(new THREE.Vector2((x / width) * 2 - 1, 1 - (y / height) * 2), this.stage.camera);
        const plane = new THREE.Plane().setFromNormalAndCoplanarPoint(
            new THREE.Vector3(...normal),
            new THREE.Vector3(...about),
        );
        return (ray.ray.intersectPlane(plane, new THREE.Vector3())?.toArray() as Xyz | undefined) ?? null;
    }

    /** The rim of a part at a place on the screen, with what the place is drawn to. */
    rimPointAt(
        x: number,
        y: number,
        lines: readonly RimLine[],
        splits: readonly Xyz[],
    ): { at: Xyz; rim: string; snap: Snap } | null {
        const away = (p: Xyz) => {
            const q = this.stage.project(new THREE.Vector3(...p));
            return q.z < 1 ? Math.hypot(q.x - x, q.y - y) : Infinity;
        };
        let best: { line: RimLine; at: Xyz; off: number } | null = null;
        for (const line of lines) {
            const chain = line.points.map((p) => this.stage.project(new THREE.Vector3(...p)));
            const { off, index, share } = nearestOnChain(chain, x, y);
            if (off > SNAP_PIXELS || (best && off >= best.off)) continue;
            const [a, b] = [line.points[index]!, line.points[index + 1]!];
            best = { line, off, at: a.map((v, k) => v + (b[k]! - v) * share) as Xyz };
        }
        if (!best) return null;
        // Named places draw from farther than the plain points of the rim.
        const within = (snap: Snap) => (snap === 'point' ? SNAP_PIXELS / 2 : SNAP_PIXELS);
        const near = snapsOf(best.line, splits)
            .map((s) => ({ ...s, off: away(s.at) }))
            .filter((s) => s.off <= within(s.snap))
            .sort((a, b) => Number(a.snap === 'point') - Number(b.snap === 'point') || a.off - b.off)[0];
        return {
            at: near?.at ?? best.at,
            rim: best.line.name,
            snap: near?.snap ?? 'on an edge',
        };
    }

    /** The sides of all faces of a part, end by end. */
    borders(part: number): Float32Array {
        const model = this.stage.models().get(part);
        return model?.surface ? model.faceBorders() : new Float32Array();
    }

    /** The border of a face nearest to a place on the screen, as the middle of one of its sides, if it can be seen. */
    borderAt(x: number, y: number, part: number): Xyz | null {
        const model = this.stage.models().get(part);
        if (!model?.surface) return null;
        const pairs = model.faceBorders();
        const near: { off: number; at: THREE.Vector3 }[] = [];
        for (let i = 0; i < pairs.length; i += 6) {
            const [a, b] = [
                new THREE.Vector3(pairs[i], pairs[i + 1], pairs[i + 2]),
                new THREE.Vector3(pairs[i + 3], pairs[i + 4], pairs[i + 5]),
            ];
            const off = distanceToChain([this.stage.project(a), this.stage.project(b)], x, y);
            if (off <= PICK_PIXELS) near.push({ off, at: a.add(b).multiplyScalar(0.5) });
        }
        near.sort((a, b) => a.off - b.off);
        const slack = this.stage.box().getSize(new THREE.Vector3()).length() * 0.005;
        const seen = near.slice(0, 8).find(({ at }) => {
            const q = this.stage.project(at);
            const hit = this.hit(q.x, q.y, [[part, model]]);
            return !hit || hit.distance > at.distanceTo(this.stage.camera.position) - slack;
        });
        return seen ? (seen.at.toArray() as Xyz) : null;
    }

    /** The middle of the surface a forecast has newly made, farthest from a plane: the top of a dome, with its height. */
    domeTop(origin: THREE.Vector3, normal: THREE.Vector3): { at: THREE.Vector3; height: number } | null {
        const preview = this.stage.preview();
        const held = preview && this.stage.models().get(preview.instead);
        const geometry = preview?.model.surface?.geometry;
        if (!held || !geometry) return null;
        const [position, face] = [geometry.getAttribute('position'), geometry.getAttribute('_face')];
        let top: { at: THREE.Vector3; height: number } | null = null;
        const p = new THREE.Vector3();
        for (let i = 0; i < position.count; i++) {
            if (face.getX(i) <= held.lastFace) continue;
            const height = p.fromBufferAttribute(position, i).sub(origin).dot(normal);
            if (!top || Math.abs(height) > Math.abs(top.height))
                top = { at: new THREE.Vector3().fromBufferAttribute(position, i), height };
        }
        return top;
    }
}
