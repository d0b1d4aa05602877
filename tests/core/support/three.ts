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
export function threePoints(mesh: Mesh): Float32Array {
  const count = mesh.geometry.getAttribute('position').count;
  const out = new Float32Array(count * 3);
  const vector = new Vector3();
  if (mesh instanceof SkinnedMesh) mesh.skeleton.update();
  for (let i = 0; i < count; i++) {
    mesh.getVertexPosition(i, vector);
    vector.applyMatrix4(mesh.matrixWorld);
    out.set([vector.x, vector.y, vector.z], i * 3);
  }
  return out;
}

/** The box around everything that a scene shows, in world space. */
export function threeBox(root: Object3D): { min: number[]; max: number[] } {
  const box = new Box3();
  const vector = new Vector3();
  for (const mesh of meshesOf(root)) {
    const points = threePoints(mesh);
    for (let i = 0; i < points.length; i += 3)
      box.expandByPoint(vector.set(points[i], points[i + 1], points[i + 2]));
  }
  return { min: box.min.toArray(), max: box.max.toArray() };
}

/**
 * Places of a bound mesh's vertices as three.js skins them, 3 each: its own bones at the given world matrices (16 per
 * node), at most four weights a vertex.
 */
export function threeDeformed(character: Character, node: number, world: Float64Array): Float32Array {
  const mesh = character.meshes[character.nodes[node].mesh];
  const skin = character.skins[character.nodes[node].skin];
  const influences = mesh.influences!;
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(mesh.attributes.POSITION.data as Float32Array, 3));
  const [index, weight] = [new Uint16Array(mesh.vertexCount * 4), new Float32Array(mesh.vertexCount * 4)];
  for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
    for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++) {
      index[vertex * 4 + k - influences.offsets[vertex]] = influences.joint[k];
      weight[vertex * 4 + k - influences.offsets[vertex]] = influences.weight[k];
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
  const vector = new Vector3();
  for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
    skinned.getVertexPosition(vertex, vector);
    out.set([vector.x, vector.y, vector.z], vertex * 3);
  }
  return out;
}
