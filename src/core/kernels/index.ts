export { wasmBase64 as barsWasm } from './bars.generated';
export { wasmBase64 as framesWasm } from './frames.generated';
export { wasmBase64 as gaussianWasm } from './gaussian.generated';
export * from './instantiate';
export { wasmBase64 as lookWasm } from './look.generated';
export { wasmBase64 as membraneWasm } from './membrane.generated';
export { wasmBase64 as patchSearchWasm } from './patch-search.generated';
export { wasmBase64 as resampleWasm } from './resample.generated';
export { wasmBase64 as seamCutWasm } from './seam-cut.generated';
