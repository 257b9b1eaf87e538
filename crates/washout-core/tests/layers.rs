//! The order of the core's modules: each uses only modules that stand before it.

mod layering;

/// The modules, from the lowest layer up. CONTRIBUTING.md says what each holds.
const LAYERS: &[&[&str]] = &[
    &["choices", "text", "class", "words", "pattern", "stock"],
    &["rules", "ready"],
    &["read", "schema"],
    &["matching", "guard"],
    &["prefilter", "operations", "program"],
    &["observe", "engine"],
    &["trace", "names", "spell", "survey", "table", "prove"],
    &["explain", "learn"],
];

#[test]
fn each_module_uses_only_those_before_it() {
    layering::check(env!("CARGO_MANIFEST_DIR"), LAYERS);
}
