import { validateBytes } from 'gltf-validator';

interface Message {
  severity: number;
  code: string;
  message: string;
  pointer?: string;
}

/** Errors that Khronos' glTF validator has with a file, one line each; `open` gives what lies beside it. */
export async function validate(
  bytes: Uint8Array,
  open?: (uri: string) => Promise<Uint8Array>,
): Promise<string[]> {
  const options = { maxIssues: 10_000, ...(open ? { externalResourceFunction: open } : {}) };
  const report = (await validateBytes(bytes, options)) as { issues: { messages: Message[] } };
  return report.issues.messages
    .filter((m) => m.severity === 0)
    .map((m) => `${m.code} ${m.pointer ?? ''} ${m.message}`);
}
