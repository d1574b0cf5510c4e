import { RECIPE_VERSION, recipeSchema, type Recipe } from '@plinket/core';
import type { EntityManager } from 'typeorm';
import type { Asking } from '../people/index.ts';
import { DocumentService, parsedBy, type KindOf } from './documents.ts';

/** What is particular about intentions of one's own: they name no files. */
const recipeKind: KindOf<Recipe> = {
  kind: 'recipe',
  noun: 'intention',
  version: RECIPE_VERSION,
  migrate: (document) => document,
  parse: parsedBy(recipeSchema, 'The intention'),
  describe: () => 'changed',
  blobs: () => [],
  missing: () => Promise.resolve([]),
};

/** The intentions that a server keeps. */
export const recipeService = (manager: EntityManager, asking?: Asking): DocumentService<Recipe> =>
  new DocumentService(manager, recipeKind, undefined, asking);
