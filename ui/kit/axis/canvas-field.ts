import styled from 'styled-components';

/** A place with a canvas behind what can be taken hold of. */
export const CanvasField = styled.div`
  position: relative;
  min-width: 0;
  /* Not hidden: a browser scrolls that to what is focused out of sight. */
  overflow: clip;
  touch-action: none;
  canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
`;
