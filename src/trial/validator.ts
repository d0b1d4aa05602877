/** Khronos' validator of glTF, as far as the house asks it. */
import { validateBytes } from 'gltf-validator';

interface Message {
  readonly severity: number;
  readonly code: string;
  readonly message: string;
  readonly pointer?: string;
}

/** Errors that the validator has with a file, one line each; `open` gives what lies beside it. */
export async function validate(
  bytes: Uint8Array,
  open?: (uri: string) => Promise<Uint8Array>,
): Promise<string[]> {
  const options = { maxIssues: 10_000, ...(open ? { externalResourceFunction: open } : {}) };
  const report = (await validateBytes(bytes, options)) as { issues: { messages: readonly Message[] } };
  return report.issues.messages
    .filter((message) => message.severity === 0)
    .map((message) => `${message.code} ${message.pointer ?? ''} ${message.message}`);
}
