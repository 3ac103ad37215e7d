// Runs the bench on bundled code, as users run it.
import './bundle.mjs';

await import('../dist/bench.mjs');
