// Measures the figures on what users run: bundled, as the server and its threads are.
import './bundle.mjs';

await import('../dist/bench.mjs');
