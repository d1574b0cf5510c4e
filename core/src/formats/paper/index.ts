export { SHEET } from './svg.ts';
export { wallPaper, type PaperFact, type PaperProof } from './wall.ts';
