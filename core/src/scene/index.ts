export * from './types.ts';
export * from './asset.ts';
export * from './compile.ts';
export { MissingAssetError, type AssetSource } from './pieces.ts';
export * from './lights.ts';
export * from './rig.ts';
export * from './pose.ts';
export { headAt } from './head-pose.ts';
export { chooseProxy, headProxy, proxyAt, type FigureProxy } from './proxy.ts';
