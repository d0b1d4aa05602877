/** Files played from outside: three.js' own loader, sampler and skinning, nothing of ours between. */
import { AnimationMixer, type Object3D, type Quaternion } from 'three';
import { type GLTF, GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { meshesOf, threePoints } from './three';

/** A file as three.js reads it, without pictures. */
export async function threeGltf(bytes: Uint8Array): Promise<GLTF> {
  const loader = new GLTFLoader();
  loader.register(() => ({ name: 'no pictures', loadTexture: async () => null }) as never);
  (globalThis as { self?: unknown }).self ??= globalThis;
  return loader.parseAsync(bytes.slice().buffer as ArrayBuffer, '');
}

/** A figure at a moment of a clip of its own file or another's, played by name; what `look` makes of it then. */
function playedAt<T>({ scene }: GLTF, { animations }: GLTF, clip: number, time: number, look: () => T): T {
  const mixer = new AnimationMixer(scene);
  mixer.clipAction(animations[clip]).play();
  mixer.setTime(time);
  scene.updateMatrixWorld(true);
  const seen = look();
  mixer.stopAllAction();
  return seen;
}

/** All points of a file's meshes at a moment of one of its clips, 3 each, by name. */
export const playedPoints = (gltf: GLTF, clip: number, time: number): Map<string, Float32Array> =>
  playedAt(
    gltf,
    gltf,
    clip,
    time,
    () => new Map(meshesOf(gltf.scene).map((mesh) => [mesh.name, threePoints(mesh)])),
  );

/** How bones are turned in the world at a moment of a clip of another file, played by name; by their names. */
export const playedTurns = (gltf: GLTF, other: GLTF, clip: number, time: number): Map<string, Quaternion> =>
  playedAt(gltf, other, clip, time, () => {
    const out = new Map<string, Quaternion>();
    gltf.scene.traverse((o: Object3D) => {
      if ('isBone' in o) out.set(o.name, o.getWorldQuaternion(o.quaternion.clone()));
    });
    return out;
  });
