export { SHEET } from './svg.ts';
export { wallPaper, type PaperFact, type PaperProof } from './wall.ts';
export { evenly, GRID_MOST, gridPaper } from './grid.ts';
export { planPaper, planScale, type PlanPaper } from './plan.ts';
