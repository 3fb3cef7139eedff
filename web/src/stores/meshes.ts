// What is known of meshes, by their content hash: it never changes, so it is kept.
import { defineStore } from 'pinia';
import { shallowReactive } from 'vue';
import { answer, api, fetched, type Examination, type Face, type FaceAnchor } from '../api/client';
import { useJob } from './job';

export const useMeshes = defineStore('meshes', () => {
    const jobs = useJob();
    const examinations = shallowReactive(new Map<string, Examination>());

    /** What is known of a mesh; kept, for it never changes. */
    async function examination(mesh: string): Promise<Examination | undefined> {
        const known = examinations.get(mesh);
        if (known) return known;
        return jobs.guarded(async () => {
            const got = (await (await fetched(`/api/v1/meshes/${mesh}/examination`)).json()) as Examination;
            examinations.set(mesh, got);
            return got;
        });
    }

    const faces = shallowReactive(new Map<string, readonly Face[]>());
    /** The faces of a mesh; kept. */
    async function facesOf(mesh: string): Promise<readonly Face[]> {
        const known = faces.get(mesh);
        if (known) return known;
        const got = await answer(api.GET('/api/v1/meshes/{mesh}/faces', { params: { path: { mesh } } }));
        faces.set(mesh, got.faces);
        return got.faces;
    }

    /** A picked face as steps keep it: what it is, so that it is found again. */
    async function anchor(mesh: string, id: number, at: readonly number[]): Promise<FaceAnchor | undefined> {
        const face = (await facesOf(mesh).catch(() => [])).find((f) => f.id === id);
        if (!face) return undefined;
        const { surface, area, alike } = face;
        return { at: [...at] as FaceAnchor['at'], face: id, surface, area, alike };
    }

    return { examinations, examination, facesOf, anchor };
});
