// Draws what is being picked: runs, borders of faces, dabs of the brush.
import * as THREE from 'three';
import type { Xyz } from '../rimRuns';
import { lineGeometry, lineMaterial } from './materials';
import type { Model } from './model';

/** What is picked. `borders` is the part whose face borders are shown. */
export interface Picks {
    runs: { line: readonly Xyz[]; chosen: boolean; bore?: boolean }[];
    borders: number | null;
    dabs: { at: Xyz; radius: number }[];
    /** Planes, drawn as squares of so many millimetres about a point. */
    planes: { about: Xyz; normal: Xyz; size: number }[];
}

export function drawPicks(group: THREE.Group, what: Picks, models: Map<number, Model>) {
    for (const child of group.children) {
        (child as THREE.Mesh).geometry.dispose();
        ((child as THREE.Mesh).material as THREE.Material).dispose();
    }
    group.clear();
    const line = (pairs: Float32Array, colour: string, width: number) => {
        const mesh = new THREE.Mesh(lineGeometry(pairs), lineMaterial({ colour, width, over: true }));
        mesh.renderOrder = 12;
        mesh.frustumCulled = false;
        group.add(mesh);
    };
    for (const run of what.runs) {
        const pairs = run.line.slice(1).flatMap((p, i) => [...run.line[i]!, ...p]);
        const colour = run.bore ? '#C8962F' : run.chosen ? '#A8761F' : '#1F2B33';
        line(new Float32Array(pairs), colour, run.chosen ? 9 : 4);
    }
    const bordered = what.borders === null ? undefined : models.get(what.borders);
    if (bordered?.surface) line(bordered.faceBorders(), '#1F2B33', 1.5);
    for (const { about, normal, size } of what.planes) {
        const square = new THREE.Mesh(
            new THREE.PlaneGeometry(size, size),
            new THREE.MeshBasicMaterial({
                color: '#C8962F',
                transparent: true,
                opacity: 0.22,
                side: THREE.DoubleSide,
                depthWrite: false,
            }),
        );
        square.quaternion.setFromUnitVectors(
            new THREE.Vector3(0, 0, 1),
            new THREE.Vector3(...normal).normalize(),
        );
        square.position.set(...about);
        square.renderOrder = 6;
        square.updateMatrix();
        const border = [
            [-1, -1],
            [1, -1],
            [1, 1],
            [-1, 1],
            [-1, -1],
        ].map(([x, y]) => new THREE.Vector3((x! * size) / 2, (y! * size) / 2, 0).applyMatrix4(square.matrix));
        group.add(square);
        line(
            new Float32Array(border.slice(1).flatMap((p, i) => [...border[i]!.toArray(), ...p.toArray()])),
            '#A8761F',
            2,
        );
    }
    if (what.dabs.length) {
        const balls = new THREE.InstancedMesh(
            new THREE.SphereGeometry(1, 20, 12),
            new THREE.MeshBasicMaterial({
                color: '#C8962F',
                transparent: true,
                opacity: 0.28,
                depthWrite: false,
            }),
            what.dabs.length,
        );
        what.dabs.forEach(({ at, radius }, i) =>
            balls.setMatrixAt(
                i,
                new THREE.Matrix4().compose(
                    new THREE.Vector3(...at),
                    new THREE.Quaternion(),
                    new THREE.Vector3(radius, radius, radius),
                ),
            ),
        );
        balls.renderOrder = 7;
        group.add(balls);
    }
}
