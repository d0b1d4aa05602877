/**
 * The environment of the server's tests: as Node's, but what the threads of the house compute is done outside of it.
 * Within, every look at a global is a slow call, and each file would have to warm up all of the core anew.
 */
import { TestEnvironment } from 'jest-environment-node';

export default class ComputingEnvironment extends TestEnvironment {
  async setup() {
    await super.setup();
    const { runJob } = await import('../../../dist/tests-tasks.mjs');
    this.global.runJobOutside = runJob;
  }
}
