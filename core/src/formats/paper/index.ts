export { SHEET } from './svg.ts';
export { wallPaper, type PaperFact, type PaperProof } from './wall.ts';
export { planPaper, planScale, type PlanPaper } from './plan.ts';
