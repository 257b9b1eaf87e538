//! Surveys: what they count is what the rules they propose change.

use proptest::prelude::*;
use washout_core::survey::{Detectors, LONGEST_LINE, Litter, LitterKind, Survey, Surveyed, Surveyor, draft};
use washout_core::{Program, RuleSet};

fn survey_in(detectors: &Detectors, pieces: &[&[u8]], every: bool) -> Survey {
    let mut surveyor = Surveyor::new(detectors, every);
    pieces.iter().for_each(|piece| surveyor.push(piece));
    surveyor.finish()
}

fn survey(text: &[u8]) -> Survey {
    survey_in(&Detectors::new(), &[text], false)
}

fn told(survey: &Survey) -> String {
    format!("{:#?} {:#?} {:#?} {:#?}", survey.size, survey.lines, survey.all_characters(), survey.litter())
}

fn changes(rule: &str, text: &[u8]) -> u64 {
    let set = RuleSet::read_one_rule("rule", rule).unwrap_or_else(|error| panic!("{error}"));
    Program::compile([&set]).apply(text).expect("a bounded rule").changes().iter().sum()
}

/// Whether a kind's count is by design less than what its rule changes by itself.
fn shares(kind: LitterKind) -> bool {
    matches!(
        kind,
        // What is counted as a control character, or as a time alone on a line, is not counted again.
        LitterKind::OddSpaces | LitterKind::TimeCodesInline
        // Straight quotation marks are not wrong; the stock pattern takes trailing runs too.
        | LitterKind::BlankRuns
        // A heading that comes again much later may be missed, and one rule may take several.
        | LitterKind::RepeatedLine
    )
}

fn disagreement(litter: &Litter, text: &[u8]) -> Option<String> {
    let changed = changes(&litter.rule, text);
    let right = match litter.kind {
        // A line of a single letter between two hyphens is part of one match only.
        LitterKind::HyphenatedLineEnds => litter.count >= changed,
        // For an expression that looks around, a broken byte is an edge.
        LitterKind::BlankRuns if std::str::from_utf8(text).is_err() => true,
        kind if shares(kind) => litter.count <= changed,
        _ => litter.count == changed,
    };
    (!right)
        .then(|| format!("{:?}: counted {}, its rule changes {changed}: {}", litter.kind, litter.count, litter.rule))
}

#[test]
fn every_kind_is_found_and_counted_as_its_rule_changes() {
    for (text, kind, count) in [
        ("\u{FEFF}fog\n", LitterKind::ByteOrderMark, 1),
        ("fog\r\nhorn\r\nlamp\n", LitterKind::MixedLineEnds, 1),
        ("the keeperâ€™s log\ncafÃ©\n", LitterKind::DoubleUtf8, 2),
        ("oil &amp; wick &#8212; &copper;\n", LitterKind::HtmlEntities, 2),
        ("a <b>lamp</b>, 3 < 4\n", LitterKind::Tags, 2),
        ("fog\n12\nhorn\n - 13 -\nPage 14 of 20\n1936 was hard\n", LitterKind::PageNumbers, 3),
        ("see https://marrow.example/log. Or www.marrow.example\n", LitterKind::Urls, 2),
        ("write to keeper@marrow.example, @wren\n", LitterKind::Emails, 1),
        ("\u{1B}[31mfog\u{1B}[0m\n", LitterKind::AnsiEscapes, 2),
        ("fog\u{c}\u{7}\n", LitterKind::Control, 2),
        ("fo\u{200B}g\u{AD}\n", LitterKind::Invisible, 2),
        ("12\u{A0}m\u{c}\n", LitterKind::OddSpaces, 1),
        ("\"fog\" “horn” «lamp»\n", LitterKind::MixedDoubleQuotes, 4),
        ("don't don’t\n", LitterKind::MixedSingleQuotes, 1),
        ("LOG page 1\nfog\nLOG page 2\nhorn\n\u{c}LOG page 13\n", LitterKind::RepeatedLine, 3),
        ("1\n00:01,000 --> 00:02,000\nfog\n", LitterKind::CaptionTimes, 1),
        ("00:14\n [1:02:03] \nat 12:30 sharp\n", LitterKind::TimeCodesAlone, 2),
        ("00:14\nat 12:30 sharp, 1:2\n", LitterKind::TimeCodesInline, 1),
        (" 1 fog\n 2 horn\n\n1912 was hard\n 3 lamp\n", LitterKind::LineNumbersAtStart, 3),
        ("fog   7\nhorn   8\nlamp [9]\n", LitterKind::LineNumbersAtEnd, 3),
        ("the light-\nhouse and the rail\u{AD}\n  ing, well-\nKnown\n", LitterKind::HyphenatedLineEnds, 2),
        ("fog [um (er)] horn (a)\n(\n", LitterKind::Brackets, 2),
        ("the the fog, Fog fog. the\nthe\n", LitterKind::DoubledWords, 2),
        ("  fog  horn \t lamp   \n", LitterKind::BlankRuns, 2),
        ("fog \nhorn\t\n  \nlamp\n", LitterKind::TrailingBlanks, 3),
        ("fog\n\n \n\nhorn\n\nlamp\n", LitterKind::ExtraEmptyLines, 2),
    ] {
        let survey = survey(text.as_bytes());
        let all = survey.litter();
        let found = all.iter().find(|litter| litter.kind == kind);
        assert_eq!(found.map(|litter| litter.count), Some(count), "{kind:?} in {text:?}: {all:#?}");
        for litter in &all {
            assert_eq!(disagreement(litter, text.as_bytes()), None, "{text:?}");
            for sighting in &litter.sightings {
                assert!(sighting.excerpt.get(sighting.mark.clone()).is_some(), "{sighting:?}");
            }
        }
        assert_eq!(changes(&draft_as_rule(&all), text.as_bytes()).min(1), 1, "{text:?}");
    }
    assert!(survey(b"Fog at dawn. Lamp out at 7.\nWind SW, force 4 (or 5\n").litter().is_empty());
}

/// The first rule of a draft that is on, or the first that is off: what the draft says must be readable.
fn draft_as_rule(litter: &[Litter]) -> String {
    let text = draft(litter, &[]);
    let set = RuleSet::read("draft", &text).unwrap_or_else(|error| panic!("{text}\n{error}"));
    assert_eq!(set.rules.len(), litter.len());
    litter.first().map(|litter| litter.rule.clone()).unwrap_or_default()
}

/// The rules of a draft that are on, after these texts.
fn active_rules(texts: &[&[u8]]) -> Vec<String> {
    let detectors = Detectors::new();
    let mut sum = Survey::default();
    texts.iter().for_each(|text| sum.add(survey_in(&detectors, &[text], false)));
    let set = RuleSet::read("draft", &draft(&sum.litter(), &[])).expect("a draft can be read");
    let on = sum.litter().into_iter().zip(set.rules).filter(|(litter, rule)| {
        assert_eq!(rule.off, litter.doubt.is_some(), "{litter:?}");
        !rule.off
    });
    on.map(|(litter, _)| litter.rule).collect()
}

#[test]
fn a_draft_drops_no_lines_but_those_that_are_spaced_as_headings_of_pages() {
    let tides: Vec<String> = (1..60).map(|day| format!("Day {day}: HIGH 1.{} m, LOW 0.3 m\n", day % 7)).collect();
    let every = |lines: u32, heading: &str| -> String {
        let body = |page: u32| (0..lines).map(move |line| format!("what {} wrote\n", letters(page * 100 + line)));
        (1..9).flat_map(|page| [heading.replace('#', &page.to_string())].into_iter().chain(body(page))).collect()
    };
    let heading = |text: &str| active_rules(&[text.as_bytes()]).iter().any(|rule| rule.starts_with("drop_lines"));
    assert!(!heading(&tides.concat()), "each line is one of many alike");
    assert!(heading(&every(30, "MARROW POINT LOG, page #\n")));
    assert!(!heading(&every(30, "what the keeper saw on day #\n")), "a line in small letters is text");
    assert!(!heading(&every(4, "DAY #\nWATCH OF THE KEEPER\n")), "no page is so short");
    assert!(heading(&every(4, "\u{c}MARROW POINT LOG, page #\n")), "unless a form feed begins it");
    let water = |page: u64| format!("HIGH WATER 0{}:1{} 1.{} M\n", page % 7, page % 5, page * 7 % 10);
    let daily: Vec<String> = (1..9)
        .map(|day| every(12, &water(day)).lines().take(13).fold(String::new(), |all, line| all + line + "\n"))
        .collect();
    assert!(!heading(&daily.concat()), "its numbers are not those of pages");
    let title: &[u8] = b"MARROW POINT LOG\nfog\n";
    assert!(active_rules(&[title, title, title]).is_empty(), "the title of each of several texts");
    for times in ["0:14\nfog\n1:02:03\nhorn\n", "1\n00:00:01,000 --> 00:00:02,000\nFog.\n"] {
        assert_eq!(active_rules(&[times.as_bytes()]), Vec::<String>::new(), "{times}");
    }
}

#[test]
fn a_draft_makes_line_ends_alike_only_where_no_file_keeps_to_others() {
    let (lf, crlf, mixed): (&[u8], &[u8], &[u8]) = (b"fog\nhorn\noil\n", b"fog\r\nhorn\r\n", b"fog\nhorn\noil\r\n");
    let to_lf = ["line_ends = { to = \"lf\" }"];
    assert_eq!(active_rules(&[lf, crlf, lf]), Vec::<String>::new());
    assert_eq!(active_rules(&[lf, crlf, mixed]), Vec::<String>::new());
    assert_eq!(active_rules(&[lf, mixed]), to_lf);
    assert_eq!(active_rules(&[b"fog\rhorn\r"]), to_lf);
}

#[test]
fn unusual_characters_come_most_telling_first() {
    let text = "The lamp – “lit” – is b\u{430}d.\u{A0}\u{200B}\u{7} caf\u{e9} \u{1F} \u{FFFD} many, many, many letters, \
                so that more than a hundred Latin letters stand against a single Cyrillic one, \
                which looks the very same.\n";
    let mut bytes = text.as_bytes().to_vec();
    bytes.extend(b"\xE9\n");
    let unusual = survey(&bytes).unusual_characters();
    let classes: Vec<(&str, u64, u64)> =
        unusual.iter().map(|count| (count.class, count.count, count.first.column)).collect();
    assert_eq!(
        classes,
        [
            ("replacement", 1, 38),
            ("broken", 1, 1),
            ("control", 1, 29),
            ("control", 1, 36),
            ("invisible", 1, 28),
            ("odd-space", 1, 27),
            ("lower", 1, 24),
            ("dash", 2, 10),
            ("double-quote", 1, 12),
            ("double-quote", 1, 16),
        ]
    );
    assert_eq!(unusual[1].first.line, 2);
    assert_eq!(unusual[6].name, "CYRILLIC SMALL LETTER A");
}

#[test]
fn surveys_of_texts_add_up() {
    let detectors = Detectors::new();
    let mut sum = Survey::default();
    for text in [&b"MARROW POINT\nfog \n"[..], b"MARROW POINT\r\nhorn\r\n", b"MARROW POINT\nfog\x07 and a long line"] {
        sum.add(survey_in(&detectors, &[text], true));
    }
    assert_eq!((sum.texts, sum.lines.texts_without_final, sum.size.lines), (3, 1, 6));
    let (longest, place) = sum.lines.longest.expect("there are lines");
    assert_eq!((longest, place.text, place.line), (20, 2, 2));
    let heading = sum.litter().into_iter().find(|litter| litter.kind == LitterKind::RepeatedLine).expect("a heading");
    assert_eq!((heading.count, heading.texts), (3, 3));
    assert_eq!(heading.rule, "drop_lines = { text = 'MARROW POINT', at = \"whole-line\" }");
    let places: Vec<usize> = heading.sightings.iter().map(|sighting| sighting.place.text).collect();
    assert_eq!(places, [0, 1]);
    let o = sum.all_characters().into_iter().find(|count| count.character == Surveyed::Char('O')).expect("O is there");
    assert_eq!((o.count, o.texts), (6, 3));
}

#[test]
fn a_line_of_any_length_is_counted_whole_and_searched_at_its_start() {
    let long = format!("  [a] é {}[b]  the the   \nfog \n", "灯 x".repeat(LONGEST_LINE / 3));
    let detectors = Detectors::new();
    let whole = survey_in(&detectors, &[long.as_bytes()], false);
    let (longest, place) = whole.lines.longest.expect("there are lines");
    assert_eq!((longest, place.line), (long.lines().next().expect("a line").chars().count() as u64, 1));
    let brackets = whole.litter().into_iter().find(|litter| litter.kind == LitterKind::Brackets).expect("brackets");
    assert_eq!(brackets.count, 1, "those at its start");
    for size in [70_001, LONGEST_LINE, LONGEST_LINE + 1] {
        let pieces: Vec<&[u8]> = long.as_bytes().chunks(size).collect();
        assert!(told(&survey_in(&detectors, &pieces, false)) == told(&whole), "in pieces of {size}");
    }
}

#[test]
fn a_heading_among_many_lines_is_counted_every_time() {
    let line = |number: u32| format!("what the keeper wrote on day {}\n", letters(number));
    let text: String = (0..3000)
        .map(|number| if number % 40 == 0 { "LOG OF MARROW POINT\n".to_owned() } else { line(number) })
        .collect();
    let found = survey(text.as_bytes()).litter();
    let counts: Vec<u64> = found.iter().map(|litter| litter.count).collect();
    assert_eq!(counts, [75], "{found:#?}");
}

/// A number in letters: in survey, numbers are all the same.
fn letters(number: u32) -> String {
    number.to_string().bytes().map(|digit| char::from(digit - b'0' + b'a')).collect()
}

/// Texts thick with litter.
fn littered() -> impl Strategy<Value = Vec<u8>> {
    let pieces = [
        "fog",
        "Fog",
        "lamp",
        " ",
        " ",
        "  ",
        "\t",
        "\n",
        "\n",
        "\r\n",
        "\r",
        "\n\n",
        "-\n",
        "\u{AD}\n",
        "-",
        "1",
        "2",
        "3 ",
        "4\n",
        " 5 ",
        "[6]",
        "12:30",
        "0:14\n",
        "\n1:02:03\n",
        "-->",
        "00:01,000 --> 00:02,000\n",
        "(",
        ")",
        "[",
        "]",
        "{",
        "}",
        "\"",
        "“",
        "”",
        "«",
        "'",
        "’",
        "&amp;",
        "&#65;",
        "&",
        "\u{1B}[31m",
        "\u{9B}2J",
        "\u{1B}",
        "â€™",
        "Ã©",
        "Ã",
        "é",
        "ÃŸ",
        "\u{A0}",
        "\u{200B}",
        "\u{c}",
        "\u{FEFF}",
        "the the ",
        "LOG page 1\n",
        "LOG page 22\n",
        "灯",
        "ь",
        ".",
        ",",
        "<b>",
        "</",
        "<!-- x -->",
        "www.a.example",
        "https://b.example/",
        "k@c.example",
        "@",
        "\n12\n",
        "xii\n",
        "page 3",
    ];
    let piece = prop_oneof![
        20 => proptest::sample::select(pieces.to_vec()).prop_map(|piece| piece.as_bytes().to_vec()),
        1 => any::<u8>().prop_map(|byte| vec![byte]),
    ];
    proptest::collection::vec(piece, 0..60).prop_map(|pieces| pieces.concat())
}

proptest! {
    #[test]
    fn counts_are_those_of_the_rules_and_do_not_depend_on_how_a_text_comes_in(
        text in littered(),
        cuts in proptest::collection::vec(any::<proptest::sample::Index>(), 0..6),
    ) {
        let detectors = Detectors::new();
        let whole = survey_in(&detectors, &[&text], false);
        for litter in whole.litter() {
            prop_assert_eq!(disagreement(&litter, &text), None);
        }
        let mut places: Vec<usize> = cuts.iter().map(|cut| cut.index(text.len() + 1)).collect();
        places.extend([0, text.len()]);
        places.sort_unstable();
        let pieces: Vec<&[u8]> = places.windows(2).map(|ends| &text[ends[0]..ends[1]]).collect();
        let cut = survey_in(&detectors, &pieces, false);
        prop_assert!(told(&cut) == told(&whole), "pieces {:?}", pieces);
        let counted = survey_in(&detectors, &pieces, true);
        let all: u64 = counted.all_characters().iter().map(|count| count.count).sum();
        let text = text.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(&text);
        let chars: usize = text.utf8_chunks().map(|chunk| chunk.valid().chars().count() + chunk.invalid().len()).sum();
        prop_assert_eq!(all, chars as u64);
    }
}
