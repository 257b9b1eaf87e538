//! The order of the modules: each uses only modules that stand before it.

#[path = "../../washout-core/tests/layering/mod.rs"]
mod layering;

/// The modules, from the lowest layer up. CONTRIBUTING.md says what each holds.
const LAYERS: &[&[&str]] = &[
    &["record", "show", "args", "interrupt", "other_words"],
    &["out", "exit", "answer", "kept_rules", "rule_text", "past", "files", "outputs", "read_files", "rules", "sample"],
    &["git", "project", "staged", "assigned"],
    &["names_result", "spelled", "traced"],
    &["json", "sarif", "report"],
    &["live", "watching", "lsp"],
    &["commands"],
];

#[test]
fn each_module_uses_only_those_before_it() {
    layering::check(env!("CARGO_MANIFEST_DIR"), LAYERS);
}
