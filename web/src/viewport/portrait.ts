// Small pictures of parts, drawn one after the other by one renderer and kept by what they show.
import * as THREE from 'three';
import { Model } from './model';
import { fit } from './fit';
import { directions } from './views';

const [WIDE, HIGH] = [264, 150];
const kept = new Map<string, string>();
let drawing: Promise<unknown> = Promise.resolve();
let renderer: THREE.WebGLRenderer | null = null;

/** A picture of meshes side by side as they lie, as an address; null where nothing can be drawn. */
export function portrait(meshes: readonly { mesh: string; triangles: number }[]): Promise<string | null> {
    const key = meshes.map((m) => m.mesh).join();
    const mine = drawing.then(() => kept.get(key) ?? draw(meshes, key)).catch(() => null);
    drawing = mine;
    return mine;
}

async function draw(meshes: readonly { mesh: string; triangles: number }[], key: string): Promise<string> {
    renderer ??= new THREE.WebGLRenderer({ antialias: true, alpha: true, preserveDrawingBuffer: true });
    renderer.setSize(WIDE, HIGH);
    const models = await Promise.all(
        meshes.map((m) => Model.load(m.mesh, m.triangles, new AbortController().signal)),
    );
    const scene = new THREE.Scene();
    models.forEach((m) => scene.add(m.group));
    const camera = new THREE.PerspectiveCamera(30, WIDE / HIGH, 0.1, 1e6);
    camera.up.set(0, 0, 1);
    const towards = new THREE.Vector3(...directions.home).normalize();
    const { centre, distance } = fit(
        models.flatMap((m) => m.sample),
        towards,
        camera,
    );
    const from = Math.max(distance * 1.08, 1e-3);
    camera.position.copy(centre).addScaledVector(towards, from);
    camera.near = from / 100;
    camera.far = from * 4;
    camera.lookAt(centre);
    camera.updateProjectionMatrix();
    scene.traverse((o) => {
        const uniforms = ((o as THREE.Mesh).material as THREE.ShaderMaterial | undefined)?.uniforms;
        if (uniforms?.size) (uniforms.size.value as THREE.Vector2).set(WIDE, HIGH);
        // Lines are for large pictures.
        if (uniforms?.width) uniforms.width.value = 2;
    });
    renderer.render(scene, camera);
    const picture = renderer.domElement.toDataURL('image/png');
    models.forEach((m) => m.dispose());
    kept.set(key, picture);
    return picture;
}
