// What is written, read by loaders of the library that draws. The Cargo test `readers_of_others_open_what_is_written` writes the
// files and says where they are.
import { readFileSync } from 'node:fs';
import { DOMParser } from 'linkedom';
import type { BufferGeometry, Mesh, Object3D } from 'three';
import { Vector3 } from 'three';
import { ThreeMFLoader } from 'three/examples/jsm/loaders/3MFLoader.js';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js';
import { STLLoader } from 'three/examples/jsm/loaders/STLLoader.js';
import { describe, expect, it } from 'vitest';

interface Facts {
    triangles: number;
    volume: number;
    middle: [number, number, number];
}
const at = process.env.WRITTEN!;
const known = JSON.parse(readFileSync(`${at}/known.json`, 'utf8')) as { post: Facts; set: [string, Facts][] };
Object.assign(globalThis, { DOMParser, self: globalThis });

function bytes(name: string): ArrayBuffer {
    const read = readFileSync(`${at}/${name}`);
    return read.buffer.slice(read.byteOffset, read.byteOffset + read.byteLength) as ArrayBuffer;
}

/** The corners of triangles where they stand, in millimetres. */
function corners(geometry: BufferGeometry, placed: Object3D | null, millimetres: number): Vector3[] {
    const place = geometry.getAttribute('position');
    const index = geometry.getIndex();
    const one = (n: number) => {
        const p = new Vector3().fromBufferAttribute(place, index ? index.getX(n) : n);
        return (placed ? p.applyMatrix4(placed.matrixWorld) : p).multiplyScalar(millimetres);
    };
    return Array.from({ length: index ? index.count : place.count }, (_, n) => one(n));
}

function agrees(found: Vector3[], facts: Facts) {
    expect(found.length).toBe(3 * facts.triangles);
    let volume = 0;
    const cells = new Map<string, Vector3>();
    for (let t = 0; t < found.length; t += 3) {
        volume += found[t]!.dot(found[t + 1]!.clone().cross(found[t + 2]!)) / 6;
        for (const p of found.slice(t, t + 3))
            cells.set(
                p
                    .toArray()
                    .map((x) => x.toFixed(3))
                    .join(),
                p,
            );
    }
    expect(volume / facts.volume).toBeCloseTo(1, 5);
    const middle = [...cells.values()].reduce((a, p) => a.add(p), new Vector3()).divideScalar(cells.size);
    middle.toArray().forEach((x, n) => expect(x).toBeCloseTo(facts.middle[n]!, 3));
}

const meshes = (root: Object3D) => {
    const found: Mesh[] = [];
    root.updateMatrixWorld(true);
    root.traverse((o) => (o as Mesh).isMesh && found.push(o as Mesh));
    return found;
};
const colour = (mesh: Mesh) =>
    (mesh.material as { color?: { getHexString(): string } } | undefined)?.color?.getHexString();

describe('one part', () => {
    it('as STL', () => agrees(corners(new STLLoader().parse(bytes('post.stl')), null, 1), known.post));
    it('as PLY', () => agrees(corners(new PLYLoader().parse(bytes('post.ply')), null, 1), known.post));
    it('as OBJ', () => {
        const read = new OBJLoader().parse(new TextDecoder().decode(bytes('post.obj')));
        const [only, ...more] = meshes(read);
        expect([only!.name, more.length]).toEqual(['Lamp_post', 0]);
        agrees(corners(only!.geometry, only!, 1), known.post);
    });
    it('as GLB, in metres, with y up', async () => {
        const read = await new GLTFLoader().parseAsync(bytes('post.glb'), '');
        const [only, ...more] = meshes(read.scene);
        expect(more.length).toBe(0);
        expect(colour(only!)).toBe('a8761f');
        const [x, y, z] = known.post.middle;
        agrees(corners(only!.geometry, only!, 1000), { ...known.post, middle: [x, z, -y] });
    });
    it('as 3MF', () => {
        const [only, ...more] = meshes(new ThreeMFLoader().parse(bytes('post.3mf')));
        expect(more.length).toBe(0);
        agrees(corners(only!.geometry, only!, 1), known.post);
    });
});

it('several parts in one 3MF stand where they stood, a copy as one', () => {
    const read = meshes(new ThreeMFLoader().parse(bytes('set.3mf')));
    expect(read.length).toBe(3);
    read.forEach((mesh, n) => agrees(corners(mesh.geometry, mesh, 25.4), known.set[n]![1]));
});
