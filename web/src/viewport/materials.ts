// How surfaces and edges are drawn: pewter outside, verdigris and hatched inside, hazard stripes on naked edges.
import * as THREE from 'three';
import type { Lens } from '../text';

export const OUTSIDE = new THREE.Color('#A9AFB2');
const INSIDE = new THREE.Color('#3F8F82');
const NEW_FACE = new THREE.Color('#C8962F');

/** How much of what is seen through covers what is behind it: as a rule, and where its tint tells something. */
export const THIN = 0.16;
export const TINTED = 0.5;

/** A face id no face has. */
export const NO_FACE = 1e9;

export const lensNumber: Record<Lens, number> = {
    plain: 0,
    rims: 1,
    sides: 2,
    xray: 3,
    deviation: 4,
    wall: 5,
};

/** The steps of the deviation lens, from nothing to the farthest: even to the eye, and to one that does not tell red from green. */
export const deviationSteps = ['#A9AFB2', '#E8D9A0', '#E0A72E', '#C4631C', '#8C2A2E', '#4A1240'];
/** Faces that can be lit at once. */
export const MOST_CHOSEN = 32;

/** Lights from the viewer's shoulder; the inside is told by colour and by hatching. */
export function surfaceMaterial(): THREE.ShaderMaterial {
    return new THREE.ShaderMaterial({
        side: THREE.DoubleSide,
        clipping: true,
        polygonOffsetFactor: -1,
        polygonOffsetUnits: -1,
        uniforms: {
            outside: { value: OUTSIDE },
            inside: { value: INSIDE },
            newFace: { value: NEW_FACE },
            newFaceFrom: { value: NO_FACE },
            chosen: { value: new Float32Array(MOST_CHOSEN).fill(-1) },
            steps: { value: deviationSteps.map((c) => new THREE.Color(c)) },
            farthest: { value: 1 },
            least: { value: 0 },
            lens: { value: 0 },
            ratio: { value: 1 },
            veil: { value: THIN },
        },
        vertexShader: `
            #include <clipping_planes_pars_vertex>
            attribute float _face, _off;
            varying vec3 vNormal;
            varying float vFace, vOff;
            void main() {
                vNormal = normalMatrix * normal;
                vFace = _face;
                vOff = _off;
                vec4 mvPosition = modelViewMatrix * vec4(position, 1.0);
                gl_Position = projectionMatrix * mvPosition;
                #include <clipping_planes_vertex>
            }`,
        fragmentShader: `
            #include <clipping_planes_pars_fragment>
            uniform vec3 outside, inside, newFace;
            uniform float newFaceFrom, lens, ratio, farthest, least, veil;
            uniform float chosen[${MOST_CHOSEN}];
            uniform vec3 steps[${deviationSteps.length}];
            varying vec3 vNormal;
            varying float vFace, vOff;
            void main() {
                #include <clipping_planes_fragment>
                vec3 n = normalize(vNormal);
                if (!gl_FrontFacing) n = -n;
                float key = max(dot(n, normalize(vec3(-0.35, 0.55, 0.75))), 0.0);
                float fill = max(dot(n, normalize(vec3(0.6, -0.2, 0.5))), 0.0);
                float sheen = pow(max(dot(n, normalize(vec3(-0.2, 0.35, 0.92))), 0.0), 40.0);
                vec3 base = gl_FrontFacing ? outside : inside;
                if (gl_FrontFacing && vFace >= newFaceFrom - 0.5) base = newFace;
                for (int i = 0; i < ${MOST_CHOSEN}; i++)
                    if (abs(chosen[i] - vFace) < 0.5) base = mix(base, newFace, 0.8);
                if (lens > 4.5) {
                    // From thin and dark to as thick as any; what is too thin is hatched.
                    float step = floor((1.0 - clamp(vOff / farthest, 0.0, 1.0)) * ${deviationSteps.length - 1}.0 + (vOff < farthest ? 0.999 : 0.0));
                    base = steps[int(min(step, ${deviationSteps.length - 1}.0))];
                    float stripe = mod(gl_FragCoord.x - gl_FragCoord.y, 8.0 * ratio) / ratio;
                    if (vOff < least && stripe < 2.5) base = vec3(0.97, 0.95, 0.9);
                } else if (lens > 3.5) {
                    // Even steps, so that a colour can be found in the scale.
                    float step = floor(clamp(vOff / farthest, 0.0, 1.0) * ${deviationSteps.length - 1}.0 + (vOff > farthest * 0.002 ? 0.999 : 0.0));
                    base = steps[int(min(step, ${deviationSteps.length - 1}.0))];
                }
                if (!gl_FrontFacing && lens < 3.5) {
                    float stripe = mod(gl_FragCoord.x + gl_FragCoord.y, 7.0 * ratio) / ratio;
                    float depth = lens > 1.5 && lens < 2.5 ? 0.45 : 0.22;
                    if (stripe < 1.6) base *= 1.0 - depth;
                }
                vec3 colour = base * (0.42 + 0.62 * key + 0.18 * fill) + 0.07 * sheen;
                if (lens > 0.5 && lens < 1.5) colour = mix(colour, vec3(dot(colour, vec3(0.33))), 0.35) * 0.92 + 0.05;
                if (lens > 1.5 && lens < 2.5) colour = base * (0.62 + 0.42 * key);
                float alpha = lens > 2.5 && lens < 3.5 ? mix(veil, 0.7, pow(1.0 - abs(n.z), 2.0)) : 1.0;
                gl_FragColor = vec4(colour, alpha);
                #include <colorspace_fragment>
            }`,
    });
}

/** How much new surface shows through what hides it. */
const SHOWN_THROUGH = 0.34;

/** New surface that lies behind other surface: seen through it, hatched. */
export function hiddenMaterial(of: THREE.ShaderMaterial): THREE.ShaderMaterial {
    const { newFace, newFaceFrom, ratio } = of.uniforms;
    return new THREE.ShaderMaterial({
        transparent: true,
        clipping: true,
        depthWrite: false,
        depthFunc: THREE.GreaterDepth,
        uniforms: { newFace: newFace!, newFaceFrom: newFaceFrom!, ratio: ratio! },
        vertexShader: `
            #include <clipping_planes_pars_vertex>
            attribute float _face;
            varying float vFace;
            void main() {
                vFace = _face;
                vec4 mvPosition = modelViewMatrix * vec4(position, 1.0);
                gl_Position = projectionMatrix * mvPosition;
                #include <clipping_planes_vertex>
            }`,
        fragmentShader: `
            #include <clipping_planes_pars_fragment>
            uniform vec3 newFace;
            uniform float newFaceFrom, ratio;
            varying float vFace;
            void main() {
                #include <clipping_planes_fragment>
                if (vFace < newFaceFrom - 0.5) discard;
                float stripe = mod(gl_FragCoord.x + gl_FragCoord.y, 9.0 * ratio) / ratio;
                gl_FragColor = vec4(newFace, stripe < 3.0 ? ${SHOWN_THROUGH} + 0.3 : ${SHOWN_THROUGH});
                #include <colorspace_fragment>
            }`,
    });
}

/** Lines as plain quads widened on the screen: fast also without a graphics card. */
export function lineMaterial(options: {
    colour: string;
    stripe?: string;
    width: number;
    over: boolean;
}): THREE.ShaderMaterial {
    return new THREE.ShaderMaterial({
        transparent: true,
        clipping: true,
        depthTest: !options.over,
        depthWrite: false,
        uniforms: {
            colour: { value: new THREE.Color(options.colour) },
            stripe: { value: new THREE.Color(options.stripe ?? options.colour) },
            width: { value: options.width },
            size: { value: new THREE.Vector2(1, 1) },
            period: { value: 1 },
        },
        vertexShader: `
            #include <clipping_planes_pars_vertex>
            attribute vec3 other;
            attribute float side, along;
            varying float vAlong;
            uniform float width;
            uniform vec2 size;
            void main() {
                vec4 mvPosition = modelViewMatrix * vec4(position, 1.0);
                #include <clipping_planes_vertex>
                vec4 a = projectionMatrix * mvPosition;
                vec4 b = projectionMatrix * modelViewMatrix * vec4(other, 1.0);
                vec2 way = (b.xy / b.w - a.xy / a.w) * size;
                way = length(way) > 1e-6 ? normalize(way) : vec2(1.0, 0.0);
                vec2 across = vec2(-way.y, way.x);
                vAlong = along;
                // The ends are pulled out by half the width, so that bends have no notches.
                vec2 move = (across * side - way * 0.5) * width / size;
                gl_Position = a + vec4(move * a.w, 0.0, 0.0);
            }`,
        fragmentShader: `
            #include <clipping_planes_pars_fragment>
            uniform vec3 colour, stripe;
            uniform float period;
            varying float vAlong;
            void main() {
                #include <clipping_planes_fragment>
                gl_FragColor = vec4(fract(vAlong / period) < 0.5 ? colour : stripe, 1.0);
                #include <colorspace_fragment>
            }`,
    });
}

/** The length of a hazard stripe pair for the given millimetres to a pixel: steps of two, so that stripes do not swim. */
export function stripePeriod(perPixel: number): number {
    const PIXELS = 14;
    return 2 ** Math.round(Math.log2(perPixel * PIXELS));
}

/** Quads for pairs of points: `pairs` holds two points for each segment. */
export function lineGeometry(pairs: Float32Array): THREE.BufferGeometry {
    const segments = pairs.length / 6;
    const position = new Float32Array(segments * 12);
    const other = new Float32Array(segments * 12);
    const side = new Float32Array(segments * 4);
    const along = new Float32Array(segments * 4);
    let length = 0;
    const index = new Uint32Array(segments * 6);
    for (let s = 0; s < segments; s++) {
        const a = pairs.subarray(s * 6, s * 6 + 3);
        const b = pairs.subarray(s * 6 + 3, s * 6 + 6);
        // Two corners at each end. Seen from the far end the direction is the other way, so the sides change too.
        [a, a, b, b].forEach((p, k) => position.set(p, s * 12 + k * 3));
        [b, b, a, a].forEach((p, k) => other.set(p, s * 12 + k * 3));
        side.set([1, -1, -1, 1], s * 4);
        const from = length;
        length += Math.hypot(b[0]! - a[0]!, b[1]! - a[1]!, b[2]! - a[2]!);
        along.set([from, from, length, length], s * 4);
        index.set(
            [0, 1, 2, 2, 1, 3].map((k) => s * 4 + k),
            s * 6,
        );
    }
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute('position', new THREE.BufferAttribute(position, 3));
    geometry.setAttribute('other', new THREE.BufferAttribute(other, 3));
    geometry.setAttribute('side', new THREE.BufferAttribute(side, 1));
    geometry.setAttribute('along', new THREE.BufferAttribute(along, 1));
    geometry.setIndex(new THREE.BufferAttribute(index, 1));
    return geometry;
}
