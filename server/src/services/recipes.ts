import { RECIPE_VERSION, recipeSchema, type FieldProblem, type Recipe } from '@plinket/core';
import type { EntityManager } from 'typeorm';
import { DocumentRefused, DocumentService, type KindOf } from './documents.ts';

/** What is particular about intentions of one's own: they name no files. */
const recipeKind: KindOf<Recipe> = {
  kind: 'recipe',
  noun: 'intention',
  version: RECIPE_VERSION,
  migrate: (document) => document,
  parse: (document) => {
    const read = recipeSchema.safeParse(document);
    if (read.success) return read.data;
    const problems: FieldProblem[] = read.error.issues.map((i) => ({ field: i.path.join('.'), reason: i.message }));
    throw new DocumentRefused('The intention cannot be read.', problems);
  },
  describe: () => 'changed',
  blobs: () => [],
  missing: () => Promise.resolve([]),
};

/** The intentions that a server keeps. */
export const recipeService = (manager: EntityManager): DocumentService<Recipe> => new DocumentService(manager, recipeKind);
