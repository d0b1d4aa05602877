import { validateBytes } from 'gltf-validator';

interface Message {
  severity: number;
  code: string;
  message: string;
  pointer?: string;
}

/** Errors that Khronos' glTF validator has with a file, one line each. */
export async function validate(bytes: Uint8Array): Promise<string[]> {
  const report = (await validateBytes(bytes, { maxIssues: 10_000 })) as { issues: { messages: Message[] } };
  return report.issues.messages
    .filter((m) => m.severity === 0)
    .map((m) => `${m.code} ${m.pointer ?? ''} ${m.message}`);
}
