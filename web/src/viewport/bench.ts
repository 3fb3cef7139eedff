// The bench: scene, camera, movement, picking. Vue talks to it through this one class; it knows nothing of the job.
import * as THREE from 'three';
import type { Lens } from '../text';
import { Disc } from './disc';
import { lensNumber, MOST_CHOSEN, NO_FACE, OUTSIDE, stripePeriod, THIN, TINTED } from './materials';
import { Eye } from './eye';
import { placeLabels, type Label, type Spot } from './labels';
import { markRing } from './marks';
import type { Model } from './model';
import type { Direction, Look } from './views';
import { Reading, type Overlay } from './overlay';
import { drawPicks, type Picks } from './pickDrawing';
import { Probe } from './probe';
import type { Xyz } from '../rimRuns';

/** Less of what a forecast makes than this share in the picture, and the eye goes back, where it was looking at a detail. */
const MOST = 0.5;

export class Bench {
    private readonly renderer: THREE.WebGLRenderer;
    private readonly scene = new THREE.Scene();
    readonly eye: Eye;
    private readonly disc = new Disc();
    private readonly reading = new Reading();
    private models = new Map<number, Model>();
    private preview: { model: Model; instead: number } | null = null;
    private looks = new Map<number, Look>();
    private lens: Lens = 'plain';
    private dark = false;
    private marks = new THREE.Group();
    private picked = new THREE.Group();
    private waiting = 0;
    private moving = false;
    private before = false;
    /** Whether a board is looked at: then no model that comes turns the view. */
    private square = false;
    /** What lies at a place on the screen. */
    readonly probe: Probe;
    private spots: Spot[] = [];
    onDrawn: (labels: Label[]) => void = () => {};

    constructor(readonly host: HTMLElement) {
        const antialias = new URLSearchParams(location.search).get('antialias') !== 'off';
        this.renderer = new THREE.WebGLRenderer({ antialias, alpha: true, preserveDrawingBuffer: true });
        this.renderer.setPixelRatio(Math.min(devicePixelRatio, antialias ? 2 : 1));
        this.renderer.domElement.style.display = 'block';
        host.append(this.renderer.domElement);
        this.eye = new Eye(
            {
                box: () => this.box(),
                points: () => this.points(),
                draw: () => this.draw(),
            },
            this.renderer.domElement,
            (on) => this.setMoving(on),
        );
        this.probe = new Probe({
            camera: this.eye.camera,
            shown: () => this.shown(),
            models: () => this.models,
            preview: () => this.preview,
            size: () => this.size(),
            project: (p) => this.project(p),
            box: () => this.box(),
            cutAway: () => this.reading.planes,
        });
        this.scene.add(this.disc.mesh, this.marks, this.picked, this.reading.group);
        new ResizeObserver(() => this.resize()).observe(host);
        this.resize();
    }

    /** Shows exactly these models, by part; a forecast stands in the place of its part, with new faces tinted. */
    show(models: Map<number, Model>, preview: { model: Model; instead: number } | null) {
        // What somebody looks at already, a board, is looked at on.
        const first = this.models.size === 0 && models.size > 0 && !this.square;
        for (const [, model] of this.shown()) this.scene.remove(model.group);
        const forecast = (of: Map<number, Model>) =>
            [...of].filter(([id]) => id < 0).map(([, model]) => model);
        const hadMade = forecast(this.models).length > 0;
        // What was wholly in the picture is to stay so; who looks at a detail keeps to that.
        const least = this.eye.share(this.points()) === 1 ? 1 : MOST;
        this.models = models;
        this.preview = preview;
        for (const [id, model] of this.shown()) {
            // Further parts of a forecast have numbers below 0 and are new all over, see `dress`.
            if (id >= 0) model.setNewFrom(NO_FACE);
            this.scene.add(model.group);
        }
        const held = preview && models.get(preview.instead);
        if (held) preview.model.setNewFrom(held.lastFace + 1);
        this.dress();
        if (first) this.eye.look('home', false);
        // The eye stays where it is as long as there is something to see, and most of what a forecast makes.
        else if (this.models.size && !this.eye.share(this.points())) this.eye.look(null);
        else if (
            !hadMade &&
            !this.square &&
            this.eye.share(forecast(models).flatMap((m) => m.sample)) < least
        )
            this.eye.look(null);
    }

    /** Shows the parts as they are while a forecast stands on the bench. */
    setBefore(on: boolean) {
        for (const [, model] of this.shown()) this.scene.remove(model.group);
        this.before = on;
        for (const [, model] of this.shown()) this.scene.add(model.group);
        this.dress();
    }

    /** Draws some models in looks of their own. */
    setLooks(looks: Map<number, Look>) {
        this.looks = looks;
        this.dress();
    }

    setLook(lens: Lens, dark: boolean) {
        this.lens = lens;
        this.dark = dark;
        this.dress();
    }

    /** Cuts everything by planes, and draws what is to be read over it. */
    setOverlay(what: Overlay, sections: { at: Xyz; normal: Xyz }[]) {
        this.reading.show(what, sections, this.box().getSize(new THREE.Vector3()).length());
        this.renderer.localClippingEnabled = sections.length > 0;
        this.dress();
    }

    private points(): THREE.Vector3[] {
        return this.shown().flatMap(([, model]) => model.sample);
    }

    private shown(): [number, Model][] {
        if (this.before && this.preview) return [...this.models].filter(([id]) => id >= 0);
        const list = [...this.models].filter(([id]) => id !== this.preview?.instead);
        if (this.preview) list.push([this.preview.instead, this.preview.model]);
        return list;
    }

    /** Brings materials in line with lens, theme, section and preview. */
    private dress() {
        for (const [id, model] of this.shown()) {
            const m = model.material;
            const own = this.looks.get(id);
            // What has no walls to be measured is plain, not as thin as can be.
            const plain = this.lens === 'wall' && !model.farthest ? 'plain' : this.lens;
            const lens = own?.ghost ? 'xray' : plain;
            m.uniforms.lens!.value = lensNumber[lens];
            m.uniforms.outside!.value = new THREE.Color(own?.tint ?? own?.colour ?? OUTSIDE);
            if (id < 0) model.setNewFrom(own?.tint ? NO_FACE : 0);
            m.uniforms.ratio!.value = this.renderer.getPixelRatio();
            m.uniforms.veil!.value = own?.tint ? TINTED : THIN;
            // A tinted body may share its walls with one that is seen through.
            m.polygonOffset = !!own?.tint;
            // Of what is tinted and seen through only the near walls, or its own triangles would veil each other.
            m.side = own?.tint && own.ghost ? THREE.FrontSide : THREE.DoubleSide;
            m.transparent = lens === 'xray';
            m.depthWrite = lens !== 'xray' || !!own?.tint;
            m.clippingPlanes = this.reading.planes;
            m.needsUpdate = true;
        }
        this.disc.place(this.box(), this.dark);
        this.resizeLines();
        this.draw();
    }

    box(): THREE.Box3 {
        const box = new THREE.Box3();
        for (const [, model] of this.shown()) box.union(model.box);
        if (!box.isEmpty()) return box;
        return new THREE.Box3(new THREE.Vector3(-50, -50, 0), new THREE.Vector3(50, 50, 50));
    }

    lookSquare(centre: Xyz, normal: Xyz, radius: number) {
        this.square = true;
        this.eye.square(new THREE.Vector3(...centre), new THREE.Vector3(...normal), radius);
    }

    /** The board is put away. */
    endSquare() {
        this.square = false;
    }

    look(direction: Direction | null) {
        this.eye.look(direction);
    }

    /** Flies to a place, from where it can be seen: as it is looked now, or turned as little as will do. */
    flyTo(centre: THREE.Vector3, radius: number) {
        const slack = this.eye.whole * 1e-3;
        this.eye.flyTo(centre, radius, this.probe.clearWay(centre, this.eye.towards, slack));
    }

    /** A point on each face of a part. */
    facePoints(part: number): ReadonlyMap<number, Xyz> {
        const model = this.models.get(part);
        return model?.surface ? model.facePoints() : new Map();
    }

    /** Turns the view, from as far as it is, so that a place is seen. */
    bringIntoSight(place: THREE.Vector3) {
        const way = this.probe.clearWay(place, this.eye.towards, this.eye.whole * 1e-3);
        const on = this.project(place.clone());
        const { width, height } = this.size();
        const isThere = on.z < 1 && on.x > 0 && on.x < width && on.y > 0 && on.y < height;
        if (!isThere || way.distanceTo(this.eye.towards) > 1e-9) this.eye.turnTo(way);
    }

    /** A point on the screen; null behind the viewer. */
    onScreen(at: Xyz): { x: number; y: number } | null {
        const q = this.project(new THREE.Vector3(...at));
        return q.z < 1 ? { x: q.x, y: q.y } : null;
    }

    /** How many pixels a length at a place is high on the screen. */
    pixels(at: Xyz, length: number): number {
        const high = this.eye.high(new THREE.Vector3(...at).distanceTo(this.eye.camera.position));
        return (length / high) * this.size().height;
    }

    /** Lights faces of a part. */
    setChosenFaces(part: number | null, faces: readonly number[]) {
        for (const [id, model] of this.models) {
            const slots = model.material.uniforms.chosen!.value as Float32Array;
            slots.fill(-1);
            if (id === part) slots.set(faces.slice(0, MOST_CHOSEN));
        }
        this.draw();
    }

    /** Draws rims in brass and wider. */
    highlight(rims: readonly string[], part: number | null) {
        for (const [id, model] of this.shown()) model.highlight(id === part ? rims : []);
        this.draw();
    }

    /** Puts brass rings at places: a selected finding, or where a step could not work. */
    setMarks(places: { centre: THREE.Vector3; radius: number }[]) {
        this.marks.clear();
        const whole = this.box().getSize(new THREE.Vector3()).length() / 2;
        const most = 50;
        for (const { centre, radius } of places.slice(0, most)) {
            // A ring round nearly everything points to nothing.
            if (radius > whole * 0.6) continue;
            this.marks.add(markRing(centre, Math.max(radius * 1.05, whole * 0.012), this.eye.camera));
        }
        this.resizeLines();
        this.draw();
    }

    /** Draws what is being picked. */
    setPicks(what: Picks) {
        drawPicks(this.picked, what, this.models);
        this.resizeLines();
        this.draw();
    }

    size() {
        return { width: this.host.clientWidth || 1, height: this.host.clientHeight || 1 };
    }

    private project(p: THREE.Vector3): THREE.Vector3 {
        // Between a move of the eye and the next picture its matrix is half of before.
        this.eye.camera.updateMatrixWorld();
        const { width, height } = this.size();
        const q = p.clone().project(this.eye.camera);
        return q.set(((q.x + 1) / 2) * width, ((1 - q.y) / 2) * height, q.z);
    }

    private setMoving(on: boolean) {
        this.moving = on;
        for (const [, model] of this.shown()) if (model.hasCoarse) model.showCoarse(on);
        this.draw();
    }

    private resize() {
        const { width, height } = this.size();
        this.renderer.setSize(width, height);
        this.eye.camera.aspect = width / height;
        this.eye.camera.updateProjectionMatrix();
        this.resizeLines();
        this.draw();
    }
    private resizeLines() {
        const { width, height } = this.size();
        this.scene.traverse((o) => {
            const uniforms = ((o as THREE.Mesh).material as THREE.ShaderMaterial | undefined)?.uniforms;
            if (uniforms?.size) (uniforms.size.value as THREE.Vector2).set(width, height);
            if (uniforms?.ratio) uniforms.ratio.value = this.renderer.getPixelRatio();
        });
    }

    private scaleStripes() {
        const high = this.eye.high(this.eye.distance);
        const period = stripePeriod(high / this.size().height);
        for (const [, model] of this.shown()) model.setStripes(period);
    }

    /** Draws once before the next frame, however often it is asked for. */
    draw() {
        if (this.waiting) return;
        this.waiting = requestAnimationFrame(() => {
            this.waiting = 0;
            this.eye.clip();
            this.scaleStripes();
            this.renderer.render(this.scene, this.eye.camera);
            this.onDrawn(this.moving ? [] : this.labels());
        });
    }

    /** Names places besides rims. */
    name(spots: Spot[]) {
        this.spots = spots;
        this.draw();
    }

    private labels() {
        // A forecast numbers its rims anew; its labels would confuse.
        if (this.preview) return [];
        const shown = this.shown();
        const rims = shown.flatMap(([part, model]) => model.rims.map((rim) => ({ part, rim })));
        const spots = this.spots.filter((s) => shown.some(([part]) => part === s.part));
        return placeLabels(rims, spots, (p) => this.project(p), this.eye.camera, this.size());
    }
}
