//! Every case of the core's corpus, through the built program as a filter.

#[path = "../../washout-core/tests/corpus/mod.rs"]
mod corpus;
mod support;

use support::TestDir;

#[test]
fn the_program_gives_what_the_cases_say() {
    let desk = TestDir::new();
    for case in corpus::cases() {
        desk.write("case.wash.toml", case.rules.as_bytes());
        let ran = desk.run_with(&["clean", "-r", "case.wash.toml"], &case.given()).status(0).silent_err();
        assert_eq!(ran.out, case.gives(), "{}\n{ran}", case.name);
    }
}
