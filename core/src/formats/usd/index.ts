export { parseUsda, UsdError, type UsdLayer, type UsdPrim } from './parse.ts';
export { writeUsda, type UsdWritten } from './write.ts';
export { readUsda, type UsdRead } from './read.ts';
export { collectionOf, primOf, ruleOfPrim, rulesOf, type UsdCollection } from './links.ts';
export { usdArea, usdLight } from './light.ts';
