'use client';
import type { ReactNode } from 'react';
import { Dialog as AriaDialog, Heading, Modal, ModalOverlay } from 'react-aria-components';
import styled from 'styled-components';
import { SERIF } from '../theme/tokens';

interface DialogProps {
  title: string;
  isOpen: boolean;
  onClose: () => void;
  children: ReactNode;
  width?: number;
}

/** A sheet over the page. Escape closes it. */
export function Dialog({ title, isOpen, onClose, children, width = 420 }: DialogProps) {
  return (
    <Overlay isOpen={isOpen} onOpenChange={(open) => !open && onClose()} isDismissable>
      <Sheet style={{ width }}>
        <Content>
          <Title slot="title">{title}</Title>
          {children}
        </Content>
      </Sheet>
    </Overlay>
  );
}

const Overlay = styled(ModalOverlay)`
  position: fixed;
  inset: 0;
  z-index: 20;
  display: grid;
  place-items: start center;
  padding-top: 12vh;
  background: color-mix(in srgb, var(--paper) 70%, transparent);
`;
const Sheet = styled(Modal)`
  max-width: calc(100vw - 32px);
  border: 1px solid var(--ink);
  background: var(--field);
`;
const Content = styled(AriaDialog)`
  padding: 18px 20px;
  outline: none;
`;
const Title = styled(Heading)`
  margin-bottom: 12px;
  font: italic 400 21px/1.2 ${SERIF};
`;
export const DialogActions = styled.div`
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  margin-top: 18px;
`;
