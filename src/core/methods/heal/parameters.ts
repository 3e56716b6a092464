import type { ParameterDefinition } from '../definition';

export const toneFit: ParameterDefinition = {
  key: 'toneFit',
  label: 'Tone fit',
  unit: '%',
  min: 0,
  max: 100,
  step: 1,
  initial: 100,
};

export const texture: ParameterDefinition = {
  key: 'texture',
  label: 'Texture',
  unit: '%',
  min: 0,
  max: 100,
  step: 1,
  initial: 100,
};
