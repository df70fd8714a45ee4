'use client';
import { createContext, useContext } from 'react';
import { frequencyScale, type FrequencyScale } from './scale';

/** The scale that ruler, lanes and bench share to the pixel. */
const AxisContext = createContext<FrequencyScale>(frequencyScale(0));

export const AxisProvider = AxisContext.Provider;
export const useAxis = (): FrequencyScale => useContext(AxisContext);
