import * as THREE from "three";

import { ABOVE, BELOW, RAMP, SIGNED_RAMP, toColour } from "./ramp";

const VERTEX = /* glsl */ `
  attribute float value;
  attribute vec3 motion;
  uniform float scale;
  varying float v;
  varying vec3 seen;
  varying vec3 place;
  void main() {
    v = value;
    place = position + scale * motion;
    vec4 p = modelViewMatrix * vec4(place, 1.0);
    seen = p.xyz;
    gl_Position = projectionMatrix * p;
  }`;

const SHADE = /* glsl */ `
  float shade(vec3 seen) {
    vec3 n = normalize(cross(dFdx(seen), dFdy(seen)));
    return 0.74 + 0.26 * abs(dot(n, normalize(vec3(0.25, 0.45, 0.85))));
  }`;

/** Everything beyond the plane `cut` (outward normal, offset) is taken away. */
const CUT = /* glsl */ `
  uniform vec4 cut;
  varying vec3 place;
  void takeAway() {
    if (dot(place, cut.xyz) > cut.w) discard;
  }`;

const NO_CUT = () => new THREE.Vector4(0, 0, 0, 1);

/** Field on a skin, patch or cut: our ramp with thin isolines; values outside the limits take the end colours, or their own. */
export function fieldMaterial(): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    uniforms: {
      scale: { value: 1 },
      cut: { value: NO_CUT() },
      low: { value: 0 },
      high: { value: 1 },
      lines: { value: 8 },
      flatShade: { value: 0 },
      marksBeyond: { value: 0 },
      isLog: { value: 0 },
      above: { value: new THREE.Vector3(...toColour(ABOVE)) },
      below: { value: new THREE.Vector3(...toColour(BELOW)) },
      stops: { value: RAMP.map((c) => new THREE.Vector3(...toColour(c))) },
    },
    vertexShader: VERTEX,
    fragmentShader: /* glsl */ `
      uniform float low, high, lines, flatShade, marksBeyond, isLog;
      uniform vec3 stops[5], above, below;
      varying float v;
      varying vec3 seen;
      ${SHADE}
      ${CUT}
      void main() {
        takeAway();
        float share = isLog > 0.5
          ? log(max(v, low) / low) / max(log(high / low), 1e-20)
          : (v - low) / max(high - low, 1e-20);
        float t = clamp(share, 0.0, 1.0);
        float s = t * 4.0;
        int i = int(min(floor(s), 3.0));
        vec3 a = stops[0], b = stops[1];
        if (i == 1) { a = stops[1]; b = stops[2]; }
        if (i == 2) { a = stops[2]; b = stops[3]; }
        if (i == 3) { a = stops[3]; b = stops[4]; }
        vec3 colour = mix(a, b, s - float(i));
        float k = t * lines;
        float width = fwidth(k);
        float line = 1.0 - smoothstep(0.3, 0.9, abs(fract(k - 0.5) - 0.5) / max(width, 1e-6));
        bool drawn = width < 0.4 && k > 0.5 && k < lines - 0.2;
        colour = mix(colour, vec3(0.12, 0.16, 0.18), drawn ? 0.35 * line : 0.0);
        float little = 1e-5 * (high - low);
        if (marksBeyond > 0.5 && v > high + little) colour = above;
        if (marksBeyond > 0.5 && v < low - little) colour = below;
        colour *= mix(shade(seen), 1.0, flatShade);
        gl_FragColor = vec4(colour, 1.0);
      }`,
    side: THREE.DoubleSide,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
  });
}

/** Contact status told by pattern: open bare, sticking filled, sliding hatched. Values 0, 1, 2. */
export function statusMaterial(): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    uniforms: { scale: { value: 1 }, cut: { value: NO_CUT() } },
    vertexShader: VERTEX,
    fragmentShader: /* glsl */ `
      varying float v;
      varying vec3 seen;
      ${CUT}
      void main() {
        takeAway();
        vec3 paper = vec3(0.98, 0.97, 0.95), fill = vec3(0.184, 0.49, 0.447);
        vec3 colour = paper;
        if (v > 1.5) colour = mod(gl_FragCoord.x + gl_FragCoord.y, 8.0) < 3.0 ? fill : vec3(0.835, 0.906, 0.886);
        else if (v > 0.5) colour = fill;
        gl_FragColor = vec4(colour, 1.0);
      }`,
    side: THREE.DoubleSide,
  });
}

/** A part in its own colour, moved with the result when there is one. */
export function partMaterial(colour: string, opacity: number): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    uniforms: {
      scale: { value: 1 },
      cut: { value: NO_CUT() },
      colour: { value: new THREE.Vector3(...toColour(colour)) },
      opacity: { value: opacity },
    },
    vertexShader: VERTEX,
    fragmentShader: /* glsl */ `
      uniform vec3 colour;
      uniform float opacity;
      varying vec3 seen;
      ${SHADE}
      ${CUT}
      void main() {
        takeAway();
        gl_FragColor = vec4(colour * shade(seen) * 1.04, opacity);
      }`,
    side: opacity < 1 ? THREE.FrontSide : THREE.DoubleSide,
    transparent: opacity < 1,
    depthWrite: opacity >= 1,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
  });
}

/** Ink lines that move with the result. */
export function lineMaterial(colour: string, opacity: number): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    uniforms: {
      scale: { value: 1 },
      cut: { value: NO_CUT() },
      colour: { value: new THREE.Vector3(...toColour(colour)) },
      opacity: { value: opacity },
    },
    vertexShader: VERTEX,
    fragmentShader: /* glsl */ `
      uniform vec3 colour;
      uniform float opacity;
      ${CUT}
      void main() {
        takeAway();
        gl_FragColor = vec4(colour, opacity);
      }`,
    transparent: opacity < 1,
    depthWrite: opacity >= 1,
  });
}

/** Counts where a section passes through a closed skin: back faces up, front faces down, nothing drawn. */
export function countingMaterial(side: typeof THREE.BackSide | typeof THREE.FrontSide): THREE.ShaderMaterial {
  const step = side === THREE.BackSide ? THREE.IncrementWrapStencilOp : THREE.DecrementWrapStencilOp;
  return new THREE.ShaderMaterial({
    uniforms: { scale: { value: 1 }, cut: { value: NO_CUT() } },
    vertexShader: VERTEX,
    fragmentShader: /* glsl */ `
      ${CUT}
      void main() {
        takeAway();
        gl_FragColor = vec4(1.0);
      }`,
    side,
    colorWrite: false,
    depthWrite: false,
    depthTest: false,
    stencilWrite: true,
    stencilFunc: THREE.AlwaysStencilFunc,
    stencilFail: step,
    stencilZFail: step,
    stencilZPass: step,
  });
}

/** The plane of a section where it passes through a part: hatched as on a drawing, neighbours unlike each other. */
export function capMaterial(colour: string, isTurned: boolean): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    uniforms: { colour: { value: new THREE.Vector3(...toColour(colour)) }, turn: { value: isTurned ? -1 : 1 } },
    vertexShader: /* glsl */ `
      void main() {
        gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
      }`,
    fragmentShader: /* glsl */ `
      uniform vec3 colour;
      uniform float turn;
      void main() {
        float line = mod(gl_FragCoord.x - turn * gl_FragCoord.y, 9.0);
        gl_FragColor = vec4(mix(mix(colour, vec3(1.0), 0.35), vec3(0.12, 0.16, 0.18), line < 1.2 ? 0.55 : 0.0), 1.0);
      }`,
    side: THREE.DoubleSide,
    stencilWrite: true,
    stencilRef: 0,
    stencilFunc: THREE.NotEqualStencilFunc,
    stencilFail: THREE.ReplaceStencilOp,
    stencilZFail: THREE.ReplaceStencilOp,
    stencilZPass: THREE.ReplaceStencilOp,
  });
}

export const rampStops = (signed: boolean) =>
  (signed ? SIGNED_RAMP : RAMP).map((c) => new THREE.Vector3(...toColour(c)));
