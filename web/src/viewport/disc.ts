// The round bench disc with a millimetre scale.
import * as THREE from 'three';

const PIXELS = 1536;

/** The radius of the disc for a part of the given half width: a round figure, mm. */
export function discRadius(half: number): number {
    const digit = 10 ** Math.floor(Math.log10(Math.max(half, 0.1)));
    return ([1, 1.5, 2, 3, 5, 7.5, 10].find((m) => m * digit >= half * 1.25) ?? 12) * digit;
}

export class Disc {
    readonly mesh: THREE.Mesh<THREE.CircleGeometry, THREE.MeshBasicMaterial>;
    private drawn = '';

    constructor() {
        const material = new THREE.MeshBasicMaterial({
            transparent: true,
            side: THREE.DoubleSide,
            depthWrite: false,
            toneMapped: false,
        });
        this.mesh = new THREE.Mesh(new THREE.CircleGeometry(1, 128), material);
        this.mesh.renderOrder = -1;
    }

    /** Puts the disc under a part. */
    place(box: THREE.Box3, dark: boolean) {
        const size = box.getSize(new THREE.Vector3());
        const centre = box.getCenter(new THREE.Vector3());
        const radius = discRadius(Math.hypot(size.x, size.y) / 2);
        this.mesh.scale.set(radius, radius, 1);
        this.mesh.position.set(centre.x, centre.y, box.min.z - Math.max(size.z, radius) * 0.002);
        const key = `${radius}${dark}`;
        if (key !== this.drawn) {
            this.mesh.material.map?.dispose();
            this.mesh.material.map = texture(radius, dark);
            this.mesh.material.needsUpdate = true;
            this.drawn = key;
        }
    }
}

function texture(radius: number, dark: boolean): THREE.CanvasTexture {
    const canvas = document.createElement('canvas');
    canvas.width = canvas.height = PIXELS;
    const g = canvas.getContext('2d')!;
    const [paper, ink] = dark ? ['#2A353D', '#E9E3D6'] : ['#EAE3D2', '#1F2B33'];
    const c = PIXELS / 2;
    const scale = (c - 4) / radius;
    g.fillStyle = paper;
    g.beginPath();
    g.arc(c, c, c - 2, 0, 2 * Math.PI);
    g.fill();
    g.strokeStyle = ink;
    const digit = 10 ** Math.floor(Math.log10(radius));
    const step = radius / digit < 2 ? digit / 5 : radius / digit < 5 ? digit / 2 : digit;
    for (let r = step, n = 1; r <= radius * 0.999; r += step, n++) {
        g.globalAlpha = 0.16;
        g.lineWidth = 2;
        g.beginPath();
        g.arc(c, c, r * scale, 0, 2 * Math.PI);
        g.stroke();
    }
    g.globalAlpha = 0.3;
    g.beginPath();
    g.moveTo(c - radius * scale, c);
    g.lineTo(c + radius * scale, c);
    g.moveTo(c, c - radius * scale);
    g.lineTo(c, c + radius * scale);
    g.stroke();
    // Ticks and figures along the front, from the middle outward.
    g.fillStyle = ink;
    g.textAlign = 'center';
    g.font = '500 26px "IBM Plex Mono", monospace';
    for (let tick = -Math.floor(radius / (step / 5)); tick <= radius / (step / 5); tick++) {
        const at = (tick * step) / 5;
        if (Math.abs(at) > radius * 0.97) continue;
        const whole = tick % 5 === 0;
        g.globalAlpha = whole ? 0.75 : 0.4;
        g.fillRect(c + at * scale - 1.5, c, 3, whole ? 22 : 10);
        g.fillRect(c, c - at * scale - 1.5, whole ? 22 : 10, 3);
    }
    g.globalAlpha = 0.8;
    for (let at = step; at <= radius * 0.9; at += step) {
        const text = `${+at.toPrecision(6)}`;
        g.fillText(text, c + at * scale, c + 50);
        g.fillText(text, c - at * scale, c + 50);
    }
    g.fillText('mm', c + 36, c + 50);
    const map = new THREE.CanvasTexture(canvas);
    map.colorSpace = THREE.SRGBColorSpace;
    map.anisotropy = 4;
    return map;
}
