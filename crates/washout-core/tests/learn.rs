//! Rules learnt from pairs: they make every pair, whatever it is; and what people have, they make as people mean it.

mod random;

use std::cell::Cell;

use proptest::collection::vec;
use proptest::prelude::*;
use random::{rules, text};
use washout_core::learn::{Doubt, LearnError, Learnt, Lesson, Pair, learn};
use washout_core::names::{NameRequest, NameWasher};
use washout_core::{Program, RuleSet};

/// Learns until `goes_on` was asked `looks` times: a time limit that is the same on every machine.
fn learn_for(looks: u32, lesson: &Lesson<'_>) -> Result<Learnt, LearnError> {
    let left = Cell::new(looks);
    learn(lesson, &|| {
        left.set(left.get().saturating_sub(1));
        left.get() > 0
    })
}

fn pairs(pairs: &[(&str, &str)]) -> Vec<Pair> {
    pairs.iter().map(|(before, after)| Pair::new(*before, *after)).collect()
}

fn rules_of(given: &[(&str, &str)]) -> Vec<String> {
    learn(&Lesson::new(&pairs(given)), &|| true).expect("rules").readings[0].rules.clone()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 100, ..ProptestConfig::default() })]

    /// Random texts, and what random rules make of them or other texts: each set that is found reads, makes every pair, and is
    /// proved by its examples; each difference is one.
    #[test]
    fn every_set_makes_its_pairs(
        rules in rules(),
        texts in vec(text(), 1..4),
        other in text(),
        whole in any::<bool>(),
        literal in any::<bool>(),
    ) {
        let program = Program::compile([&RuleSet::read("random", &rules).map_err(|error| TestCaseError::fail(error.to_string()))?]);
        let cut = |text: &[u8]| -> String {
            let text = String::from_utf8_lossy(text);
            let text = text.trim_start_matches('\u{FEFF}');
            if whole { text.chars().take(80).collect() } else { text.lines().next().unwrap_or_default().chars().take(40).collect() }
        };
        let mut given: Vec<Pair> = texts
            .iter()
            .map(|text| {
                let before = cut(text);
                let after = program.apply(before.as_bytes()).map(|outcome| outcome.text().to_vec()).unwrap_or_default();
                Pair::new(before, cut(&after))
            })
            .collect();
        given.push(Pair::new(cut(&other), cut(&other)));
        let mut lesson = Lesson::new(&given);
        lesson.literal = literal;
        match learn_for(2_000, &lesson) {
            Err(LearnError::NothingDiffers) => prop_assert!(given.iter().all(|pair| pair.before == pair.after)),
            Err(LearnError::Contradiction(one, other)) => {
                prop_assert_eq!(&given[one].before, &given[other].before);
                prop_assert_ne!(&given[one].after, &given[other].after);
            }
            Err(_) => {}
            Ok(learnt) => {
                for (number, reading) in learnt.readings.iter().enumerate() {
                    let source = reading.rule_set(&learnt.examples);
                    let set = RuleSet::read("learnt", &source).map_err(|error| TestCaseError::fail(format!("{source}\n{error}")))?;
                    prop_assert!(set.prove(None).all(|proof| proof.holds()), "{}", source);
                    let program = Program::compile([&set]);
                    for pair in &given {
                        let outcome = program.apply(pair.before.as_bytes()).expect("it ran before");
                        prop_assert_eq!(String::from_utf8_lossy(outcome.text()), &pair.after[..], "{}", source);
                    }
                    prop_assert_eq!(reading.differs.is_some(), number > 0);
                    if let Some(differs) = &reading.differs {
                        let outcome = program.apply(differs.line.as_bytes()).map(|outcome| outcome.text().to_vec()).unwrap_or_default();
                        prop_assert_eq!(String::from_utf8_lossy(&outcome), &differs.this[..], "{}", source);
                        prop_assert_ne!(&differs.this, &differs.first);
                    }
                }
            }
        }
    }
}

/// Tasks as people have them: a few pairs, and lines that are not shown. Of those that can be learnt, at least 85 in 100 come out
/// exactly as they are meant on every line; for the others there are no rules.
#[test]
fn what_people_mean_by_a_few_pairs() {
    let tasks = include_str!("learn/tasks.jsonl");
    let (mut exact, mut learnable, mut wrong) = (0, 0, Vec::new());
    for task in tasks.lines().map(|line| serde_json::from_str::<serde_json::Value>(line).expect("JSON")) {
        let read = |key: &str| -> Vec<Pair> {
            let text = |value: &serde_json::Value| value.as_str().expect("a text").to_owned();
            let both = task[key].as_array().expect("pairs").iter();
            both.map(|pair| Pair::new(text(&pair[0]), text(&pair[1]))).collect()
        };
        let (shown, hidden, name) = (read("shown"), read("hidden"), task["name"].as_str().expect("a name"));
        let mut lesson = Lesson::new(&shown);
        lesson.names = task["names"].as_bool().expect("true or false");
        let learnt = learn(&lesson, &|| true);
        if task["impossible"].as_bool() == Some(true) {
            assert!(learnt.is_err(), "{name}: {:?}", learnt.map(|learnt| learnt.readings[0].rules.clone()));
            continue;
        }
        learnable += 1;
        let made = learnt.as_ref().is_ok_and(|learnt| {
            let source = learnt.readings[0].rule_set(&learnt.examples);
            let set = RuleSet::read(name, &source).expect("a rule set");
            let program = Program::compile([&set]);
            hidden.iter().chain(&shown).all(|pair| {
                if lesson.names {
                    let request = NameWasher::new(&program, &set.names).wash(pair.before.as_bytes(), false).request;
                    let stays = pair.before == pair.after;
                    return match request {
                        NameRequest::Become(name) => name == pair.after.as_bytes(),
                        _ => stays,
                    };
                }
                program.apply(pair.before.as_bytes()).is_ok_and(|outcome| outcome.text() == pair.after.as_bytes())
            })
        });
        exact += usize::from(made);
        if !made {
            wrong.push(name.to_owned());
        }
    }
    assert!(exact * 100 >= learnable * 85, "{exact} of {learnable}; wrong: {}", wrong.join(" "));
}

/// The plainest description that the language has is the one that is found.
#[test]
fn the_language_is_used_as_people_would_use_it() {
    for (given, want) in [
        (&[("00:14 Marrow Point", "Marrow Point")][..], &["remove = { stock = \"timestamp\" }"][..]),
        (&[("lamp_room", "lamp room")], &["replace = { chars = \"_\", with = \" \" }"]),
        (&[("Fog “thick”", "Fog \"thick\"")], &["replace = { class = \"double-quote\", with = '\"' }"]),
        (
            &[("Relief on 05.11.1936", "Relief on 1936-11-05")],
            &[r#"replace = { pattern = '(\d+)\.(\d+)\.(\d+)$', with = "$3-$2-$1" }"#],
        ),
        (&[("FOG AT DAWN", "Fog At Dawn"), ("OIL", "Oil")], &["recase = { to = \"title\" }"]),
        (&[(" fog  horn ", "fog horn")], &["trim = {}", "collapse = { class = \"blank\", with = \" \" }"]),
        (&[("mp-7", "mp-007"), ("mp-12", "mp-012")], &["pad = { width = 3 }"]),
        (&[("fog\n\nhorn\n\n\nboat\n", "fog\nhorn\nboat\n")], &["drop_lines = { empty = \"all\" }"]),
        (&[("The lamp\nis out.\n\nFog.\n", "The lamp is out.\n\nFog.\n")], &["join_lines = {}"]),
        (&[("fog\nhorn\nfog\n", "fog\nhorn\n")], &["drop_repeats = { scope = \"file\" }"]),
        (&[("fog\n# a\nhorn # b\n# c d\n", "fog\nhorn # b\n")], &["drop_lines = { chars = \"#\", at = \"start\" }"]),
    ] {
        assert_eq!(rules_of(given), want, "{given:?}");
    }
}

/// An error names the pair that no rules explain; nothing is made up, unless a table is asked for.
#[test]
fn nothing_is_invented() {
    let given = pairs(&[("lamp", "Lampe"), ("fog", "Nebel"), ("ship", "Schiff")]);
    let mut lesson = Lesson::new(&given);
    assert_eq!(learn(&lesson, &|| true), Err(LearnError::Unexplained(1)));
    lesson.literal = true;
    let learnt = learn(&lesson, &|| true).expect("a table");
    let table = r#"replace = { pairs = [["lamp", "Lampe"], ["fog", "Nebel"], ["ship", "Schiff"]] }"#;
    assert_eq!(learnt.readings[0].rules, [table]);

    let given = pairs(&[("fog", "Fog"), ("oil", "oil"), ("fog", "FOG")]);
    assert_eq!(learn(&Lesson::new(&given), &|| true), Err(LearnError::Contradiction(0, 2)));
    assert_eq!(learn(&Lesson::new(&pairs(&[("fog", "fog")])), &|| true), Err(LearnError::NothingDiffers));
    assert_eq!(learn(&Lesson::new(&pairs(&[("fog 1", "1 fog")])), &|| false), Err(LearnError::Ended));
}

/// A pair with a slip in it is the one that is named, wherever it is.
#[test]
fn a_slip_is_found() {
    let right =
        [("1. Fog", "Fog"), ("2. Horn lit", "Horn lit"), ("3. Oil", "Oil"), ("14. Boat", "Boat"), ("5. Rope", "Rope")];
    for slip in [0, 2, 4] {
        for repeated in [1, 4] {
            let mut given: Vec<Pair> = Vec::new();
            for number in 0..repeated {
                given.extend(right.iter().map(|(before, after)| Pair::new(format!("{number}{before}"), *after)));
            }
            let at = (repeated - 1) * right.len() + slip;
            given[at].after = given[at].after.replace(['o', 'i'], "a");
            assert_eq!(learn(&Lesson::new(&given), &|| true), Err(LearnError::Unexplained(at)), "{}", given[at].after);
        }
    }
}

/// Of many pairs a few are looked at; those that they do not explain come in, and all come out right.
#[test]
fn many_pairs_are_made_by_the_few_that_differ() {
    let mut given: Vec<Pair> =
        (0..400).map(|number| Pair::new(format!("MP-{number} lit"), format!("MP-{number}"))).collect();
    given.extend((0..400).map(|number| Pair::new(format!("{number} wicks"), format!("{number} wicks"))));
    given.push(Pair::new("MP-7 LIT", "MP-7"));
    given.push(Pair::new("lit lamp", "lit lamp"));
    let learnt = learn(&Lesson::new(&given), &|| true).expect("rules");
    assert!(learnt.examples.len() <= 16, "{}", learnt.examples.len());
    let set = RuleSet::read("learnt", &learnt.readings[0].rule_set(&learnt.examples)).expect("a rule set");
    let program = Program::compile([&set]);
    assert!(
        given
            .iter()
            .all(|pair| program.apply(pair.before.as_bytes()).is_ok_and(|made| made.text() == pair.after.as_bytes()))
    );
}

/// Other lines decide between readings, and doubtful ones are marked.
#[test]
fn other_lines_count() {
    let given = pairs(&[("scan 7.tif", "scan 007.tif")]);
    let others = ["a 1 of 2.tif", "scan 8.tif", "plain.tif"].map(str::to_owned);
    let mut lesson = Lesson::new(&given);
    (lesson.names, lesson.others) = (true, &others);
    let learnt = learn(&lesson, &|| true).expect("rules");
    let made = learnt.on(&others);
    assert_eq!(
        made.iter().map(|made| &made.becomes[..]).collect::<Vec<_>>(),
        ["a 001 of 002.tif", "scan 008.tif", "plain.tif"]
    );
    assert_eq!(made.iter().map(|made| made.doubt).collect::<Vec<_>>(), [Some(Doubt::Open), None, None]);
    let differs = learnt.readings[1].differs.as_ref().expect("another reading");
    assert_eq!((&differs.line[..], &differs.this[..]), ("a 1 of 2.tif", "a 001 of 2.tif"));
    // That line as one more pair decides it.
    let more = [given.clone(), pairs(&[("a 1 of 2.tif", "a 1 of 002.tif")])].concat();
    lesson.pairs = &more;
    let learnt = learn(&lesson, &|| true).expect("rules");
    assert_eq!(learnt.on(&others)[0].becomes, "a 1 of 002.tif");

    let given = pairs(&[("fog 12:05 horn", "fog horn")]);
    let others = ["12:06".to_owned()];
    let mut lesson = Lesson::new(&given);
    lesson.others = &others;
    assert_eq!(learn(&lesson, &|| true).expect("rules").on(&others)[0].doubt, Some(Doubt::Emptied));
}

#[test]
fn tables_of_pairs_say_what_is_wrong_with_them() {
    let read = |text: &str| Pair::read_table(text.as_bytes(), b',');
    assert_eq!(read("old,new\na,b\n"), Ok(pairs(&[("a", "b")])));
    assert_eq!(read("folder,old,new\nscans,a%25.tif,b.tif\n"), Ok(pairs(&[("a%.tif", "b.tif")])));
    assert_eq!(read("\u{FEFF}a,\"b\nc\"\n"), Ok(pairs(&[("a", "b\nc")])));
    assert!(read("a,b\nc\n").is_err_and(|why| why.contains("line 2 has one column, not two")));
    assert!(Pair::read_table(b"a,\xFF\n", b',').is_err_and(|why| why.contains("line 1 is not UTF-8")));
    assert!(read("a,\"b\n").is_err());
}
