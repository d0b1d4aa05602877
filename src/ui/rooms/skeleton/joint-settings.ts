import { create } from 'zustand';

/** The settings of the tool that moves joints: its own. */
export interface JointSettings {
  /** What hangs below a moved joint comes along. */
  readonly withChildren: boolean;
  /** A joint that is let go goes to the middle of its limb. */
  readonly snapsToLimb: boolean;
}

export const useJointSettings = create<JointSettings>(() => ({ withChildren: true, snapsToLimb: false }));
