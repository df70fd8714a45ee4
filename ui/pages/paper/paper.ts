import styled from 'styled-components';
import { SERIF } from '../../kit/theme/tokens';

/** A page of a song to be read and printed: a head with what can be done, which is not printed, and what it says. */
export const Paper = styled.main`
  max-width: 1200px;
  height: 100vh;
  margin: 0 auto;
  padding: 20px 28px 40px;
  overflow-y: auto;
  > header {
    display: flex;
    align-items: baseline;
    justify-content: space-between;
    margin-bottom: 14px;
  }
  > header > div {
    display: flex;
    align-items: baseline;
    gap: 16px;
  }
  > header h1 {
    font: italic 400 26px/1.2 ${SERIF};
  }
  p {
    max-width: 860px;
    margin: 10px 0;
    color: var(--soft);
  }
  p[role='alert'] {
    color: var(--ink);
  }
  a {
    color: var(--claim);
  }
  figure {
    margin: 0 0 14px;
  }
  @media print {
    height: auto;
    padding: 0;
    overflow: visible;
    [data-screen] {
      display: none;
    }
  }
`;
