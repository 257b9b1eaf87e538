//! Texts for benchmarks.
