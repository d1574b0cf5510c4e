// Empties the database in DATABASE_URL: only for tests, benches and pictures, which start from the demo.
import { openDatabase } from './data/source.ts';

const db = await openDatabase(process.env['DATABASE_URL']!);
await db.query('TRUNCATE setup, setup_patch, asset, proof CASCADE');
await db.destroy();
