// What is drawn over the parts to be read: filled cuts, the surface of a liquid, lines of measures, axes of mass.
import * as THREE from 'three';
import type { Xyz } from '../rimRuns';
import { lineGeometry, lineMaterial } from './materials';

export interface Cap {
    /** Outlines in the plane, material to the left; holes run the other way. */
    contours: { points: readonly (readonly number[])[]; closed: boolean; area: number }[];
    origin: Xyz;
    u: Xyz;
    v: Xyz;
    colour: string;
    /** Which way the hatching runs. */
    turn: number;
    /** Which of the sections it belongs to. */
    section: number;
}

export interface Overlay {
    caps: Cap[];
    /** Outlines of the liquid's surface. */
    lid: { outlines: readonly (readonly Xyz[])[]; up: Xyz } | null;
    /** Seen through everything. */
    lines: { points: readonly Xyz[]; colour: string; width?: number }[];
    /** Marks on surfaces, hidden by what is before them. */
    marks: { points: readonly Xyz[]; colour: string }[];
}

let hatching: THREE.Texture | null = null;
/** Fine diagonal lines on nothing, to be tinted. */
function hatch(): THREE.Texture {
    if (hatching) return hatching;
    const canvas = document.createElement('canvas');
    canvas.width = canvas.height = 32;
    const pen = canvas.getContext('2d')!;
    pen.fillStyle = '#ffffff';
    pen.fillRect(0, 0, 32, 32);
    pen.strokeStyle = '#1F2B33';
    pen.lineWidth = 3;
    for (const by of [-32, 0, 32]) {
        pen.beginPath();
        pen.moveTo(by, 32);
        pen.lineTo(by + 32, 0);
        pen.stroke();
    }
    hatching = new THREE.CanvasTexture(canvas);
    hatching.wrapS = hatching.wrapT = THREE.RepeatWrapping;
    hatching.anisotropy = 4;
    return hatching;
}

/** Shapes with their holes of chains in a plane. */
function shapes(chains: { points: readonly (readonly number[])[]; hole: boolean }[]): THREE.Shape[] {
    const path = (points: readonly (readonly number[])[]) => points.map(([x, y]) => new THREE.Vector2(x, y));
    const outer = chains
        .filter((c) => !c.hole)
        .map((c) => ({ shape: new THREE.Shape(path(c.points)), points: path(c.points) }))
        .map((o) => ({ ...o, area: Math.abs(THREE.ShapeUtils.area(o.points)) }))
        .sort((a, b) => a.area - b.area);
    for (const hole of chains.filter((c) => c.hole)) {
        const points = path(hole.points);
        const round = outer.find((o) => inside(o.points, points[0]!));
        round?.shape.holes.push(new THREE.Path(points));
    }
    return outer.map((o) => o.shape);
}
function inside(round: THREE.Vector2[], p: THREE.Vector2): boolean {
    let within = false;
    round.forEach((a, i) => {
        const b = round[(i + 1) % round.length]!;
        if (a.y > p.y !== b.y > p.y && p.x < a.x + ((p.y - a.y) / (b.y - a.y)) * (b.x - a.x))
            within = !within;
    });
    return within;
}

const frame = (origin: Xyz, u: Xyz, v: Xyz) => {
    const [x, y] = [new THREE.Vector3(...u), new THREE.Vector3(...v)];
    return new THREE.Matrix4()
        .makeBasis(x, y, new THREE.Vector3().crossVectors(x, y))
        .setPosition(new THREE.Vector3(...origin));
};

/** What is drawn over the parts, and the planes that cut them. */
export class Reading {
    readonly group = new THREE.Group();
    /** What lies behind one of these is out of sight. */
    planes: THREE.Plane[] = [];

    show(what: Overlay, sections: { at: Xyz; normal: Xyz }[], size: number) {
        this.planes = sections.map(({ at, normal }) =>
            new THREE.Plane().setFromNormalAndCoplanarPoint(
                new THREE.Vector3(...normal).normalize().negate(),
                new THREE.Vector3(...at),
            ),
        );
        drawOverlay(this.group, what, this.planes, size);
    }
}

/** Fills a group anew; `planes` are those of the sections, which cut each other's fillings too. */
function drawOverlay(group: THREE.Group, what: Overlay, planes: THREE.Plane[], size: number) {
    for (const child of group.children as THREE.Mesh[]) {
        child.geometry.dispose();
        (child.material as THREE.Material).dispose();
    }
    group.clear();
    const line = (pairs: number[], colour: string, width: number, over: boolean, clip: THREE.Plane[]) => {
        const material = lineMaterial({ colour, width, over });
        material.clippingPlanes = clip;
        const mesh = new THREE.Mesh(lineGeometry(new Float32Array(pairs)), material);
        mesh.frustumCulled = false;
        mesh.renderOrder = over ? 14 : 8;
        group.add(mesh);
    };
    for (const cap of what.caps) {
        const others = planes.filter((_, i) => i !== cap.section);
        const at = frame(cap.origin, cap.u, cap.v);
        const closed = cap.contours.filter((c) => c.closed && c.points.length > 2);
        const filled = shapes(closed.map((c) => ({ points: c.points, hole: c.area < 0 })));
        if (filled.length) {
            const texture = hatch().clone();
            texture.repeat.set(40 / size, 40 / size);
            texture.rotation = cap.turn;
            texture.needsUpdate = true;
            const mesh = new THREE.Mesh(
                new THREE.ShapeGeometry(filled),
                new THREE.MeshBasicMaterial({
                    color: cap.colour,
                    map: texture,
                    side: THREE.DoubleSide,
                    clippingPlanes: others,
                    polygonOffset: true,
                    polygonOffsetFactor: -1,
                    polygonOffsetUnits: -1,
                }),
            );
            mesh.applyMatrix4(at);
            mesh.renderOrder = 5;
            group.add(mesh);
        }
        const pairs = cap.contours.flatMap(({ points, closed: round }) =>
            points.flatMap((a, i) => {
                const b = points[i + 1] ?? (round ? points[0] : undefined);
                if (!b) return [];
                const lift = (p: readonly number[]) =>
                    new THREE.Vector3(p[0], p[1], 0).applyMatrix4(at).toArray();
                return [...lift(a), ...lift(b)];
            }),
        );
        if (pairs.length) line(pairs, '#1F2B33', 2, false, others);
    }
    if (what.lid) {
        const up = new THREE.Vector3(...what.lid.up).normalize();
        const u =
            new THREE.Vector3(1, 0, 0).cross(up).length() > 0.1
                ? new THREE.Vector3(1, 0, 0)
                : new THREE.Vector3(0, 1, 0);
        u.addScaledVector(up, -u.dot(up)).normalize();
        const v = new THREE.Vector3().crossVectors(up, u);
        const flat = what.lid.outlines.map((o) =>
            o.map((p) => [new THREE.Vector3(...p).dot(u), new THREE.Vector3(...p).dot(v)]),
        );
        const first = what.lid.outlines[0]?.[0];
        const height = first ? new THREE.Vector3(...first).dot(up) : 0;
        const origin = up.clone().multiplyScalar(height).toArray() as Xyz;
        const area = (o: number[][]) => THREE.ShapeUtils.area(o.map(([x, y]) => new THREE.Vector2(x, y)));
        // The largest is outside; what lies in another is a hole.
        const chains = flat.map((points, i) => ({
            points,
            hole: flat.some(
                (other, k) =>
                    k !== i &&
                    Math.abs(area(other)) > Math.abs(area(points)) &&
                    inside(
                        other.map(([x, y]) => new THREE.Vector2(x, y)),
                        new THREE.Vector2(...points[0]!),
                    ),
            ),
        }));
        const mesh = new THREE.Mesh(
            new THREE.ShapeGeometry(shapes(chains)),
            new THREE.MeshBasicMaterial({
                color: '#3D7FA6',
                transparent: true,
                opacity: 0.72,
                side: THREE.DoubleSide,
                clippingPlanes: planes,
                depthWrite: false,
            }),
        );
        mesh.applyMatrix4(frame(origin, u.toArray() as Xyz, v.toArray() as Xyz));
        mesh.renderOrder = 9;
        group.add(mesh);
        for (const o of what.lid.outlines)
            line(
                o.flatMap((p, i) => [...p, ...o[(i + 1) % o.length]!]),
                '#1F5575',
                2.5,
                false,
                planes,
            );
    }
    for (const { points, colour, width } of what.lines) {
        const pairs = points.slice(1).flatMap((p, i) => [...points[i]!, ...p]);
        if (pairs.length) line(pairs, colour, width ?? 2.5, true, []);
    }
    for (const { points, colour } of what.marks) {
        const pairs = points.slice(1).flatMap((p, i) => [...points[i]!, ...p]);
        if (pairs.length) line(pairs, colour, 1.5, false, planes);
    }
}
