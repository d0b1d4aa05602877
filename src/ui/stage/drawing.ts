let software: boolean | null = null;

/** True where WebGL is drawn by the processor: no graphics card, or none that the browser may use. */
function drawnBySoftware(): boolean {
  if (software === null) {
    const gl = document.createElement('canvas').getContext('webgl2');
    const info = gl?.getExtension('WEBGL_debug_renderer_info');
    software =
      !!gl &&
      /swiftshader|llvmpipe|software/i.test(
        String(gl.getParameter(info ? info.UNMASKED_RENDERER_WEBGL : gl.RENDERER)),
      );
    gl?.getExtension('WEBGL_lose_context')?.loseContext();
  }
  return software;
}

/**
 * Whether edges are smoothed: as a person has chosen, else wherever there is a graphics card to do it. Only
 * in a browser.
 */
export function drawsFinely(): boolean {
  const chosen = chosenDrawing();
  return chosen ? chosen === 'fine' : !drawnBySoftware();
}

/** Share of the screen's pixels in either direction that are drawn where somebody has chosen small pictures. */
const SMALL = 0.4;

/** Pixels drawn for one of the page's; fewer where small pictures are chosen, as on machines that draw in software. */
export function drawnPixelRatio(): number {
  return chosenDrawing() === 'small' ? SMALL : Math.min(window.devicePixelRatio, 2);
}

function chosenDrawing(): string | null {
  try {
    return localStorage.getItem('drawing');
  } catch {
    // A private window has no say in it.
    return null;
  }
}

/** Keeps a person's choice for the pages to come. */
export function drawFinely(fine: boolean): void {
  try {
    localStorage.setItem('drawing', fine ? 'fine' : 'quick');
  } catch {
    /* a private window forgets it */
  }
}
