//! Targets and their modifiers.

use schemars::JsonSchema;

/// One of these, or a list of them.
#[derive(JsonSchema)]
#[schemars(untagged)]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) enum OneOrMany<T> {
    One(T),
    Many(Vec<T>),
}

/// A string, or a list of strings.
pub(super) type Strings = OneOrMany<String>;

#[derive(JsonSchema)]
#[schemars(rename_all = "kebab-case")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) enum At {
    Anywhere,
    Start,
    End,
    Edges,
    WholeLine,
}

#[derive(JsonSchema)]
#[schemars(rename_all = "kebab-case")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) enum Case {
    Exact,
    Ignore,
}

#[derive(JsonSchema)]
#[schemars(rename_all = "kebab-case")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) enum Hyphen {
    Parts,
    Joins,
}

#[derive(JsonSchema)]
#[schemars(rename_all = "kebab-case")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) enum Marks {
    Take,
    Keep,
}

#[derive(JsonSchema)]
#[schemars(rename_all = "kebab-case")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) enum WhichName {
    All,
    First,
    Last,
}

/// A name, or a number from 1.
#[derive(JsonSchema)]
#[schemars(untagged)]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) enum Which {
    Name(WhichName),
    Nth(std::num::NonZeroUsize),
}

/// The names of stock patterns.
pub(super) struct StockName;

impl JsonSchema for StockName {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Stock".into()
    }

    fn json_schema(_generator: &mut schemars::SchemaGenerator) -> schemars::Schema {
        let names = crate::stock::Stock::ALL.iter();
        let each: Vec<_> =
            names.map(|stock| serde_json::json!({ "const": stock.name(), "description": stock.takes() })).collect();
        schemars::json_schema!({ "oneOf": each })
    }
}

/// What is spared: taken out of sets and lists beforehand; elsewhere a match is spared if the whole of it is excepted.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields, rename = "Except")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) struct ExceptTable {
    /// These characters.
    chars: Option<String>,
    /// Classes, code points, ranges, categories, scripts.
    class: Option<Strings>,
    /// These whole words.
    words: Option<Strings>,
    /// These strings.
    text: Option<Strings>,
}

/// A table that looks for something, with the keys of its own before those of every target.
macro_rules! searching {
    ($(#[$doc:meta])* $name:ident as $title:literal { $($(#[$field_doc:meta])* $field:ident: $kind:ty),* $(,)? }) => {
        $(#[$doc])*
        #[derive(schemars::JsonSchema)]
        #[schemars(deny_unknown_fields, rename = $title)]
        #[expect(dead_code, reason = "only its shape is asked for")]
        pub(super) struct $name {
            $($(#[$field_doc])* $field: $kind,)*
            /// Where on the line a match must stand; blanks may stand between it and the edge.
            at: Option<crate::schema::target::At>,
            /// Whether letter case counts.
            case: Option<crate::schema::target::Case>,
            /// What is spared.
            except: Option<crate::schema::target::ExceptTable>,
            /// What a hyphen does at the edge of a word (with `words`).
            hyphen: Option<crate::schema::target::Hyphen>,
            /// These characters, each standing for itself.
            chars: Option<String>,
            /// Classes, code points (U+00A0), ranges (U+2000..U+200A), general categories (Zs), scripts (Greek).
            class: Option<crate::schema::target::Strings>,
            /// Literal strings, leftmost and then longest.
            text: Option<crate::schema::target::Strings>,
            /// Whole words and phrases.
            words: Option<crate::schema::target::Strings>,
            /// Files with a word or phrase on each line.
            words_from: Option<crate::schema::target::Strings>,
            /// Whether the first row of each file is a heading, and no word or pair (with `words_from`, `pairs_from`).
            heading: Option<bool>,
            /// Lines of the files that start with this are comments (with `words_from`, `pairs_from`).
            comments: Option<String>,
            /// Ready-made stop words of languages, by ISO 639 code; `en-long` is the long list of a language that has a short one.
            stopwords: Option<crate::schema::target::Strings>,
            /// A regular expression; it sees one line without its end.
            pattern: Option<String>,
            /// The pattern sees the whole text, each line end as \n.
            across_lines: Option<bool>,
            /// A ready-made pattern.
            stock: Option<crate::schema::target::StockName>,
            /// Only line numbers that go up from line to line (with `stock = "line-number"`).
            rising: Option<bool>,
            /// The number or identifier on the line before too (with `stock = "cue-range"`).
            number: Option<bool>,
            /// From an opening mark to its closing mark on one line.
            between: Option<[String; 2]>,
            /// Whether the marks are part of the match (with `between`).
            marks: Option<crate::schema::target::Marks>,
            /// Characters by their place on the line, from 1: "1..12", "5..", "3".
            positions: Option<String>,
        }
    };
}
pub(super) use searching;

searching! {
    /// A target: what is looked for, and where.
    TargetTable as "Target" {}
}

searching! {
    /// Which records: those of which a field holds a match.
    RowsTable as "Rows" {
        /// The field, by name or number.
        field: crate::schema::rule::FieldRef,
    }
}
