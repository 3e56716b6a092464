import encodeJpeg from '@jsquash/jpeg/encode.js';
import encodeWebp from '@jsquash/webp/encode.js';
import type { LossyCodecs } from './flat-picture';

export const browserCodecs: LossyCodecs = {
  jpeg: (picture, quality) => encodeJpeg(picture, { quality }),
  webp: (picture, quality) => encodeWebp(picture, { quality }),
};
