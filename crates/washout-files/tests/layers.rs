//! The order of the modules: each uses only modules that stand before it.

#[path = "../../washout-core/tests/layering/mod.rs"]
mod layering;

/// The modules, from the lowest layer up. CONTRIBUTING.md says what each holds.
const LAYERS: &[&[&str]] = &[
    &["stop", "skip", "stamp", "identity", "threads", "meter", "durable", "charset", "chunk", "first_lines"],
    &["error", "open", "wait", "folder", "encoding"],
    &["choose", "history", "named"],
    &["wash", "write"],
    &["run", "judge", "rewrite", "survey", "restore", "rename"],
];

#[test]
fn each_module_uses_only_those_before_it() {
    layering::check(env!("CARGO_MANIFEST_DIR"), LAYERS);
}
