// A part as drawn: surface at two levels of detail, rims, crowded edges, tangles.
import * as THREE from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { acceleratedRaycast, computeBoundsTree } from 'three-mesh-bvh';
import type { Named } from '../api/watched';
import { hiddenMaterial, lineGeometry, lineMaterial, NO_FACE, surfaceMaterial } from './materials';

THREE.BufferGeometry.prototype.computeBoundsTree = computeBoundsTree;
THREE.Mesh.prototype.raycast = acceleratedRaycast;

const loader = new GLTFLoader();
/** Above this a thinned surface is shown while the view moves. */
const COARSE_FROM = 150_000;
/** Points the picture is fitted to: enough that none stands out of it by more than the margin. */
const MOST_SAMPLES = 2000;

export interface RimDrawing {
    name: string;
    /** Points in order; a closed rim comes back to its first. */
    points: THREE.Vector3[];
    mesh: THREE.Mesh;
}

export class Model {
    readonly group = new THREE.Group();
    readonly rims: RimDrawing[] = [];
    readonly box = new THREE.Box3();
    /** Points spread over the surface, to fit the picture to. */
    readonly sample: THREE.Vector3[] = [];
    surface: THREE.Mesh | null = null;
    private coarse: THREE.Mesh | null = null;
    /** What is new of the surface, where something hides it. */
    private hidden: THREE.Mesh | null = null;
    readonly material = surfaceMaterial();
    /** The greatest face id, and the least. */
    lastFace = -1;
    private firstFace = NO_FACE;
    /** The greatest distance from what came in, mm, of a drawing that shows it. */
    farthest = 0;
    private borders: Float32Array | null = null;
    private onFaces: ReadonlyMap<number, [number, number, number]> | null = null;

    /** Fetches and builds the drawing of a mesh by its content hash. */
    static async load(mesh: string, triangles: number, signal: AbortSignal): Promise<Model> {
        const model = new Model();
        const fetchGlb = async (query: string) => {
            const response = await fetch(`/api/v1/meshes/${mesh}/display.glb${query}`, { signal });
            if (!response.ok)
                throw new Error(`the drawing of the part could not be fetched (${response.status})`);
            return loader.parseAsync(await response.arrayBuffer(), '');
        };
        const large = triangles > COARSE_FROM;
        const [full, coarse] = await Promise.all([fetchGlb(''), large ? fetchGlb('?coarse=true') : null]);
        model.take(full.scene, true);
        if (coarse) model.take(coarse.scene, false);
        model.showCoarse(false);
        return model;
    }

    /** Fetches a drawing with a figure at each point: distance from another mesh, thickness, clearance. */
    static async loadFigured(what: string, named: Named): Promise<Model> {
        const model = new Model();
        const response = await fetch(`/api/v1/meshes/${what}`, named);
        if (!response.ok)
            throw new Error(`the figures of the part could not be fetched (${response.status})`);
        const glb = await loader.parseAsync(await response.arrayBuffer(), '');
        model.take(glb.scene, true);
        const off = model.surface?.geometry.getAttribute('_off');
        for (let i = 0; off && i < off.count; i++) model.farthest = Math.max(model.farthest, off.getX(i));
        model.material.uniforms.farthest!.value = model.farthest || 1;
        return model;
    }

    /** Faces from this one on are new. Where not all of it is, what is new is seen through what hides it. */
    setNewFrom(face: number) {
        this.material.uniforms.newFaceFrom!.value = face;
        if (this.hidden) this.hidden.visible = face > this.firstFace && face <= this.lastFace;
    }

    /** How the colours of a wall go. */
    setWall(top: number, least: number) {
        this.material.uniforms.farthest!.value = top;
        this.material.uniforms.least!.value = least;
    }

    /** What is drawn at the corners of a triangle of the surface besides its place: distance or thickness, mm. */
    offAt(triangle: number): number | null {
        const { index, attributes } = this.surface!.geometry;
        const off = attributes._off;
        if (!off) return null;
        return Math.min(...[0, 1, 2].map((k) => off.getX(index!.getX(triangle * 3 + k))));
    }

    /** The face a triangle of the surface is in. */
    faceOf(triangle: number): number {
        const { index, attributes } = this.surface!.geometry;
        return attributes._face!.getX(index!.getX(triangle * 3));
    }

    /** By face the middle of its largest triangle: a point that lies on it; found once. */
    facePoints(): ReadonlyMap<number, [number, number, number]> {
        if (this.onFaces) return this.onFaces;
        const found = new Map<number, { area: number; at: [number, number, number] }>();
        const { index, attributes } = this.surface!.geometry;
        const triangle = new THREE.Triangle();
        const middle = new THREE.Vector3();
        for (let t = 0; t * 3 < index!.count; t++) {
            const [a, b, c] = [0, 1, 2].map((k) => index!.getX(t * 3 + k)) as [number, number, number];
            triangle.setFromAttributeAndIndices(attributes.position!, a, b, c);
            const [face, area] = [attributes._face!.getX(a), triangle.getArea()];
            if (area > (found.get(face)?.area ?? -1))
                found.set(face, { area, at: triangle.getMidpoint(middle).toArray() });
        }
        return (this.onFaces = new Map([...found].map(([face, { at }]) => [face, at])));
    }

    /** The sides of the surface that lie on the border of a face, as pairs of points; found once. */
    faceBorders(): Float32Array {
        if (this.borders) return this.borders;
        // Points are drawn once for each face they are in, so a side on a border is used by one triangle only.
        const { index, attributes } = this.surface!.geometry;
        const count = attributes.position!.count;
        const seen = new Map<number, number>();
        for (let i = 0; i < index!.count; i++) {
            const a = index!.getX(i);
            const b = index!.getX(i % 3 === 2 ? i - 2 : i + 1);
            const key = Math.min(a, b) * count + Math.max(a, b);
            seen.set(key, (seen.get(key) ?? 0) + 1);
        }
        const pairs: number[] = [];
        const at = attributes.position!;
        for (const [key, uses] of seen) {
            if (uses > 1) continue;
            for (const i of [Math.floor(key / count), key % count])
                pairs.push(at.getX(i), at.getY(i), at.getZ(i));
        }
        return (this.borders = new Float32Array(pairs));
    }

    private take(scene: THREE.Group, full: boolean) {
        for (const child of [...scene.children]) {
            const geometry = (child as THREE.Mesh).geometry as THREE.BufferGeometry;
            const position = geometry.getAttribute('position');
            // The loader turns spaces in names into underscores.
            const name = child.name.replace(/_/g, ' ');
            if (name === 'surface') {
                const surface = new THREE.Mesh(geometry, this.material);
                this.group.add(surface);
                if (full) {
                    geometry.computeBoundingBox();
                    if (geometry.boundingBox) this.box.copy(geometry.boundingBox);
                    const step = Math.ceil(position.count / MOST_SAMPLES);
                    for (let i = 0; i < position.count; i += step)
                        this.sample.push(new THREE.Vector3().fromBufferAttribute(position, i));
                    const faces = geometry.getAttribute('_face');
                    for (let i = 0; i < faces.count; i++) {
                        this.lastFace = Math.max(this.lastFace, faces.getX(i));
                        this.firstFace = Math.min(this.firstFace, faces.getX(i));
                    }
                    this.surface = surface;
                    this.hidden = new THREE.Mesh(geometry, hiddenMaterial(this.material));
                    this.hidden.visible = false;
                    this.hidden.renderOrder = 5;
                    this.group.add(this.hidden);
                } else {
                    this.coarse = surface;
                }
            } else if (full && name.startsWith('rim ')) {
                const points = Array.from({ length: position.count }, (_, i) =>
                    new THREE.Vector3().fromBufferAttribute(position, i),
                );
                const pairs = new Float32Array((points.length - 1) * 6);
                points
                    .slice(1)
                    .forEach((p, i) => pairs.set([...points[i]!.toArray(), ...p.toArray()], i * 6));
                const mesh = this.lines(
                    pairs,
                    { colour: '#F2A900', stripe: '#1F2B33', width: 5, over: true },
                    10,
                );
                this.rims.push({ name: name.slice(4), points, mesh });
            } else if (full && name === 'crowded') {
                const pairs = new Float32Array(position.array);
                this.lines(pairs, { colour: '#1F2B33', width: 6, over: true }, 8);
                this.lines(pairs, { colour: '#FBF9F4', width: 2, over: true }, 9);
            } else if (full && name === 'tangle') {
                const material = new THREE.MeshBasicMaterial({
                    color: '#B8243C',
                    side: THREE.DoubleSide,
                    polygonOffset: true,
                    polygonOffsetFactor: -2,
                });
                this.group.add(new THREE.Mesh(geometry, material));
            }
        }
    }

    private lines(pairs: Float32Array, look: Parameters<typeof lineMaterial>[0], order: number): THREE.Mesh {
        const mesh = new THREE.Mesh(lineGeometry(pairs), lineMaterial(look));
        mesh.renderOrder = order;
        mesh.frustumCulled = false;
        this.group.add(mesh);
        return mesh;
    }

    /** Builds what picking needs, once. */
    preparePicking() {
        const geometry = this.surface?.geometry;
        if (geometry && !geometry.boundsTree) geometry.computeBoundsTree();
    }

    showCoarse(on: boolean) {
        if (this.surface) this.surface.visible = !(on && this.coarse);
        if (this.coarse) this.coarse.visible = on;
    }

    get hasCoarse() {
        return this.coarse !== null;
    }

    /** Draws some rims in brass and wider, the others as they are. */
    highlight(rims: readonly string[]) {
        for (const { name, mesh } of this.rims) {
            const chosen = rims.includes(name);
            const uniforms = (mesh.material as THREE.ShaderMaterial).uniforms;
            uniforms.width!.value = chosen ? 9 : 5;
            (uniforms.stripe!.value as THREE.Color).set(chosen ? '#A8761F' : '#1F2B33');
            mesh.renderOrder = chosen ? 11 : 10;
        }
    }

    setStripes(period: number) {
        for (const { mesh } of this.rims)
            (mesh.material as THREE.ShaderMaterial).uniforms.period!.value = period;
    }

    dispose() {
        this.group.traverse((o) => {
            if (o instanceof THREE.Mesh) {
                o.geometry.dispose();
                (o.material as THREE.Material).dispose();
            }
        });
    }
}
