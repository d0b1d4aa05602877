/** three.js' own readers, given what they need of a page. */
import { JSDOM } from 'jsdom';
import {
  Bone,
  Box3,
  BufferAttribute,
  BufferGeometry,
  type Group,
  LoadingManager,
  Matrix4,
  Mesh,
  type Object3D,
  Skeleton,
  SkinnedMesh,
  Vector3,
} from 'three';
import type { Character } from '@/core/character/model';
import { BVHLoader } from 'three/examples/jsm/loaders/BVHLoader.js';
import { ColladaLoader } from 'three/examples/jsm/loaders/ColladaLoader.js';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';

const { window } = new JSDOM('');
Object.assign(globalThis, { DOMParser: window.DOMParser, document: window.document });

/** Reads COLLADA as three.js does; pictures are not fetched. */
export function threeCollada(text: string): Group {
  const quiet = [console.warn, console.error, console.debug];
  const silent = () => {};
  Object.assign(console, { warn: silent, error: silent, debug: silent });
  try {
    const manager = new LoadingManager();
    manager.addHandler(/./, {
      load: () => ({}),
      setPath() {
        return this;
      },
      setRequestHeader() {
        return this;
      },
      setCrossOrigin() {
        return this;
      },
    } as never);
    const loaded = new ColladaLoader(manager).parse(text, '');
    if (!loaded) throw new Error('three.js reads nothing');
    const scene = loaded.scene as unknown as Group;
    scene.updateMatrixWorld(true);
    return scene;
  } finally {
    [console.warn, console.error, console.debug] = quiet;
  }
}

export const threeObj = (text: string): Group => {
  const quiet = console.warn;
  console.warn = () => {};
  try {
    return new OBJLoader().parse(text);
  } finally {
    console.warn = quiet;
  }
};
export const threeBvh = (text: string) => new BVHLoader().parse(text);

export function meshesOf(root: Object3D): Mesh[] {
  const out: Mesh[] = [];
  root.traverse((o) => {
    if (o instanceof Mesh) out.push(o);
  });
  return out;
}

/** World places of a mesh's vertices: skinned as three.js skins them. */
export function threePoints(m: Mesh): Float32Array {
  const n = m.geometry.getAttribute('position').count;
  const out = new Float32Array(n * 3);
  const v = new Vector3();
  if (m instanceof SkinnedMesh) m.skeleton.update();
  for (let i = 0; i < n; i++) {
    m.getVertexPosition(i, v);
    v.applyMatrix4(m.matrixWorld);
    out.set([v.x, v.y, v.z], i * 3);
  }
  return out;
}

/** The box around everything that a scene shows, in world space. */
export function threeBox(root: Object3D): { min: number[]; max: number[] } {
  const box = new Box3();
  const v = new Vector3();
  for (const m of meshesOf(root)) {
    const p = threePoints(m);
    for (let i = 0; i < p.length; i += 3) box.expandByPoint(v.set(p[i], p[i + 1], p[i + 2]));
  }
  return { min: box.min.toArray(), max: box.max.toArray() };
}

/**
 * Places of a bound mesh's vertices as three.js skins them, 3 each: its own bones at the given world matrices (16 per
 * node), at most four weights a vertex.
 */
export function threeDeformed(c: Character, node: number, world: Float64Array): Float32Array {
  const mesh = c.meshes[c.nodes[node].mesh];
  const skin = c.skins[c.nodes[node].skin];
  const f = mesh.influences!;
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(mesh.attributes.POSITION.data as Float32Array, 3));
  const [index, weight] = [new Uint16Array(mesh.vertexCount * 4), new Float32Array(mesh.vertexCount * 4)];
  for (let v = 0; v < mesh.vertexCount; v++)
    for (let k = f.offsets[v]; k < f.offsets[v + 1]; k++) {
      index[v * 4 + k - f.offsets[v]] = f.joint[k];
      weight[v * 4 + k - f.offsets[v]] = f.weight[k];
    }
  geometry.setAttribute('skinIndex', new BufferAttribute(index, 4));
  geometry.setAttribute('skinWeight', new BufferAttribute(weight, 4));
  const bones = skin.joints.map((j) => {
    const bone = new Bone();
    bone.matrixAutoUpdate = false;
    bone.matrixWorldAutoUpdate = false;
    bone.matrixWorld.fromArray(world, j * 16);
    return bone;
  });
  const inverses = skin.joints.map((_, k) => new Matrix4().fromArray(skin.inverseBinds, k * 16));
  const skinned = new SkinnedMesh(geometry);
  skinned.bind(new Skeleton(bones, inverses), new Matrix4());
  skinned.skeleton.update();
  const out = new Float32Array(mesh.vertexCount * 3);
  const p = new Vector3();
  for (let v = 0; v < mesh.vertexCount; v++) {
    skinned.getVertexPosition(v, p);
    out.set([p.x, p.y, p.z], v * 3);
  }
  return out;
}
