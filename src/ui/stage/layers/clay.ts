import { Color, DoubleSide, FrontSide, ShaderMaterial } from 'three';
import type { Surface } from '../view';
import { token } from './tokens';

const MODE: Record<Surface, number> = { clay: 0, weights: 1, parts: 2, difference: 3, owners: 4 };

const vertex = /* glsl */ `
attribute float value;
attribute float marked;
attribute float part;
attribute vec4 inSet;
varying vec3 vNormal;
varying vec3 vView;
varying float vValue;
varying float vMarked;
varying float vPart;
varying vec4 vInSet;
// Which bone it is does not pass over into the next: a triangle is of one.
flat varying float vOwner;
void main() {
  vec4 p = modelViewMatrix * vec4(position, 1.0);
  vNormal = normalize(normalMatrix * normal);
  vView = -p.xyz;
  vInSet = inSet;
  vValue = value;
  vOwner = value;
  vMarked = marked;
  vPart = part;
  gl_Position = projectionMatrix * p;
}`;

const fragment = /* glsl */ `
uniform int mode;
uniform float opacity;
uniform vec3 dark;
uniform vec3 light;
uniform vec3 ink;
uniform vec3 damson;
uniform vec3 ramp[5];
uniform float night;
uniform vec3 tint;
uniform float tinted;
varying vec3 vNormal;
varying vec3 vView;
varying float vValue;
varying float vMarked;
varying float vPart;
varying vec4 vInSet;
flat varying float vOwner;

vec3 rampAt(float t) {
  float x = clamp(t, 0.0, 1.0) * 4.0;
  vec3 c = mix(ramp[0], ramp[1], clamp(x, 0.0, 1.0));
  c = mix(c, ramp[2], clamp(x - 1.0, 0.0, 1.0));
  c = mix(c, ramp[3], clamp(x - 2.0, 0.0, 1.0));
  return mix(c, ramp[4], clamp(x - 3.0, 0.0, 1.0));
}

float contour(float v, float level) {
  float d = abs(v - level);
  float w = fwidth(v);
  return w < 1e-5 ? 0.0 : 1.0 - smoothstep(w * 0.6, w * 1.5, d);
}

vec3 partTint(float p) {
  return 0.5 + 0.5 * cos(p * 2.399 + vec3(0.4, 2.5, 4.6));
}

// A tint for every bone, those beside each other in the list far apart; the less a bone has, the nearer to bare clay.
vec3 ownerOn(vec3 clay, float lit) {
  if (vOwner <= 0.0) return clay;
  float bone = floor(vOwner);
  float share = vOwner - bone;
  vec3 tint = 0.56 + 0.2 * cos(bone * 2.399 + vec3(0.0, 2.1, 4.2));
  return mix(clay, tint * (0.62 + 0.5 * lit), 0.2 + 0.5 * share);
}

vec3 weightsOn(vec3 clay, float t, float lit) {
  if (t <= 0.002) {
    float h = mod(gl_FragCoord.x + gl_FragCoord.y, 7.0);
    return mix(clay, ink, (1.0 - smoothstep(0.5, 1.3, h)) * 0.10);
  }
  float line = max(contour(t, 0.25), max(contour(t, 0.5), contour(t, 0.75)));
  return mix(rampAt(t) * (0.8 + 0.26 * lit), t > 0.6 ? vec3(0.97, 0.94, 0.86) : ink, line * 0.75);
}

void main() {
  vec3 n = normalize(vNormal);
  if (!gl_FrontFacing) n = -n;
  float lit = clamp(0.52 + 0.36 * dot(n, normalize(vec3(-0.38, 0.62, 0.6))) + 0.14 * n.y, 0.0, 1.0);
  float rim = pow(1.0 - clamp(abs(dot(n, normalize(vView))), 0.0, 1.0), 2.6);
  vec3 clay = mix(dark, light, smoothstep(0.02, 0.95, lit));
  if (tinted > 0.5) clay = mix(clay, clay * tint * 1.5, 0.62);
  // A mesh without this attribute reads as 0 0 0 1: in no set.
  float inside = 1.0 - vInSet.w;
  if (inside > 0.02) clay = mix(clay, (vInSet.rgb / inside) * (0.55 + 0.6 * lit), 0.6 * inside);
  vec3 c = clay;
  if (mode == 1) c = weightsOn(clay, vValue, lit);
  if (mode == 4) c = ownerOn(clay, lit);
  if (mode == 2) c = clay * (0.72 + 0.3 * partTint(vPart));
  if (mode == 3 && vValue > 0.002) c = rampAt(vValue) * (0.8 + 0.26 * lit);
  c = mix(c, ink, rim * (night > 0.5 ? 0.15 : 0.34));
  if (vMarked > 0.02 && (mode == 1 || mode == 3 || mode == 4)) {
    // Over the picture of a number a tint would read as more of it: dots and a line round what is meant.
    vec3 over = dot(c, vec3(0.3, 0.59, 0.11)) > 0.35 ? ink : vec3(1.0, 0.98, 0.92);
    vec2 cell = mod(gl_FragCoord.xy + vec2(mod(floor(gl_FragCoord.y / 6.0), 2.0) * 3.0, 0.0), 6.0) - 3.0;
    float dotted = (1.0 - smoothstep(0.9, 1.6, length(cell))) * step(0.5, vMarked);
    float w = fwidth(vMarked);
    float line = w < 1e-5 ? 0.0 : 1.0 - smoothstep(w * 1.2, w * 2.2, abs(vMarked - 0.5));
    c = mix(c, over, max(dotted * 0.85, line));
  } else if (vMarked > 0.02) {
    float stripe = mod(gl_FragCoord.x - gl_FragCoord.y, 6.0) < 3.0 ? 1.0 : 0.82;
    vec3 hatched = damson * stripe * (0.75 + 0.4 * lit);
    c = mix(c, hatched, 0.82 * smoothstep(0.02, 0.5, vMarked));
  }
  if (!gl_FrontFacing) c *= 0.82;
  gl_FragColor = vec4(c, opacity);
}`;

/**
 * The one material of all meshes: clay under a soft light, its rims drawn in ink, carrying the picture of a
 * number where one is wanted.
 */
export function clayMaterial(): ShaderMaterial {
  return new ShaderMaterial({
    vertexShader: vertex,
    fragmentShader: fragment,
    side: DoubleSide,
    transparent: false,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
    uniforms: {
      mode: { value: 0 },
      opacity: { value: 1 },
      dark: { value: token('clay-dark') },
      light: { value: token('clay-light') },
      ink: { value: token('ink') },
      damson: { value: token('damson') },
      ramp: { value: [0, 1, 2, 3, 4].map((i) => token(`ramp-${i as 0}`)) },
      night: { value: 0 },
      tint: { value: new Color(1, 1, 1) },
      tinted: { value: 0 },
    },
  });
}

export function showSurface(material: ShaderMaterial, surface: Surface, sheer: boolean): void {
  material.uniforms.mode.value = MODE[surface];
  if (material.transparent === sheer) return;
  // Only this makes another program of it, which takes long.
  material.needsUpdate = true;
  material.uniforms.opacity.value = sheer ? 0.34 : 1;
  material.transparent = sheer;
  material.depthWrite = !sheer;
  material.side = sheer ? FrontSide : DoubleSide;
}

export function recolour(material: ShaderMaterial): void {
  const uniforms = material.uniforms;
  uniforms.dark.value = token('clay-dark');
  uniforms.light.value = token('clay-light');
  uniforms.ink.value = document.documentElement.dataset.sheet === 'night' ? token('paper') : token('ink');
  uniforms.damson.value = token('damson');
  uniforms.ramp.value = [0, 1, 2, 3, 4].map((i) => token(`ramp-${i as 0}`));
  uniforms.night.value = document.documentElement.dataset.sheet === 'night' ? 1 : 0;
}

const litVertex = /* glsl */ `
varying vec3 vNormal;
void main() {
  vNormal = normalize(normalMatrix * normal);
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
}`;

const litFragment = /* glsl */ `
uniform vec3 damson;
uniform vec3 ink;
uniform vec3 paper;
uniform float dotted;
varying vec3 vNormal;
void main() {
  if (dotted > 0.5) {
    // Over the picture of a number a tint would read as more of it.
    vec2 cell = mod(gl_FragCoord.xy + vec2(mod(floor(gl_FragCoord.y / 6.0), 2.0) * 3.0, 0.0), 6.0) - 3.0;
    float ring = 1.0 - smoothstep(1.6, 2.3, length(cell));
    float core = 1.0 - smoothstep(0.9, 1.6, length(cell));
    gl_FragColor = vec4(mix(paper, ink, core), max(core * 0.85, ring * 0.5));
    return;
  }
  vec3 n = normalize(vNormal);
  if (!gl_FrontFacing) n = -n;
  float lit = clamp(0.52 + 0.36 * dot(n, normalize(vec3(-0.38, 0.62, 0.6))) + 0.14 * n.y, 0.0, 1.0);
  float stripe = mod(gl_FragCoord.x - gl_FragCoord.y, 6.0) < 3.0 ? 1.0 : 0.82;
  gl_FragColor = vec4(damson * stripe * (0.75 + 0.4 * lit), 0.82);
}`;

/** What faces that are lit are drawn with, over the clay: to their edges and no further. */
export function litFacesMaterial(): ShaderMaterial {
  return new ShaderMaterial({
    vertexShader: litVertex,
    fragmentShader: litFragment,
    side: DoubleSide,
    transparent: true,
    depthWrite: false,
    uniforms: {
      damson: { value: token('damson') },
      ink: { value: token('ink') },
      paper: { value: token('paper') },
      dotted: { value: 0 },
    },
  });
}

export function recolourLit({ uniforms }: ShaderMaterial, isOverNumbers: boolean): void {
  uniforms.damson.value = token('damson');
  uniforms.ink.value = token('ink');
  uniforms.paper.value = token('paper');
  uniforms.dotted.value = isOverNumbers ? 1 : 0;
}

const ghostFragment = /* glsl */ `
uniform vec3 colour;
varying vec3 vNormal;
varying vec3 vView;
void main() {
  float facing = abs(dot(normalize(vNormal), normalize(vView)));
  float rim = pow(1.0 - clamp(facing, 0.0, 1.0), 2.2);
  gl_FragColor = vec4(colour, 0.06 + 0.62 * rim);
}`;

const ghostVertex = /* glsl */ `
varying vec3 vNormal;
varying vec3 vView;
void main() {
  vec4 p = modelViewMatrix * vec4(position, 1.0);
  vNormal = normalize(normalMatrix * normal);
  vView = -p.xyz;
  gl_Position = projectionMatrix * p;
}`;

/** What is not there yet, or not any more: its rims in damson, the rest a breath. */
export function ghostMaterial(): ShaderMaterial {
  return new ShaderMaterial({
    vertexShader: ghostVertex,
    fragmentShader: ghostFragment,
    side: FrontSide,
    transparent: true,
    depthTest: false,
    depthWrite: false,
    uniforms: { colour: { value: token('damson') } },
  });
}
