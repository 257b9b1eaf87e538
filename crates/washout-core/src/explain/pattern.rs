//! A regular expression in plain words, piece by piece.

use regex_syntax::ast::parse::Parser;

use crate::text::shown::quoted;

/// One piece of a regular expression.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct PatternPiece {
    /// How deep it stands within groups, from 0.
    pub depth: usize,
    /// The piece as it is written; after `(?x)` without its blanks and comments.
    pub source: String,
    /// What it means.
    pub means: String,
}

/// The pieces of an expression that has been compiled, in the order they are written; those within a group follow it.
///
/// ```
/// let pieces = washout_core::explain::pattern_pieces(r"\d+ m");
/// assert_eq!(pieces[1].source, " m");
/// ```
pub fn pattern_pieces(source: &str) -> Vec<PatternPiece> {
    let mut state = State { groups: 0, backtracks: Parser::new().parse(source).is_err() };
    let mut pieces = Vec::new();
    alternatives(source, 0, &mut state, &mut pieces);
    pieces
}

/// What is known of an expression while it is read.
struct State {
    /// How many groups have begun.
    groups: usize,
    /// Whether it is for the backtracking engine, which knows more: `a++` keeps what it took.
    backtracks: bool,
}

fn alternatives(source: &str, depth: usize, state: &mut State, pieces: &mut Vec<PatternPiece>) {
    if let Some(flags) = leading_flags(source).filter(|flags| ignores_blanks(flags)) {
        concatenation(flags, depth, state, pieces);
        return alternatives(&without_blanks(&source[flags.len()..]), depth, state, pieces);
    }
    let parts = split_alternatives(source);
    if let [only] = parts[..] {
        return concatenation(only, depth, state, pieces);
    }
    for (index, part) in parts.iter().enumerate() {
        let word = if index == 0 { "either" } else { "or" };
        let mut within = Vec::new();
        concatenation(part, depth + 1, state, &mut within);
        let source = (*part).to_owned();
        match &mut within[..] {
            [] => pieces.push(PatternPiece { depth, source, means: format!("{word} nothing") }),
            [only] => pieces.push(PatternPiece { depth, source, means: format!("{word} {}", only.means) }),
            _ => {
                pieces.push(PatternPiece { depth, source, means: format!("{word} this:") });
                pieces.append(&mut within);
            }
        }
    }
}

/// `(?ix)` at the start.
fn leading_flags(source: &str) -> Option<&str> {
    let flags = &source[..=source.find(')')?];
    let inner = flags.strip_prefix("(?")?.strip_suffix(')')?;
    (!inner.is_empty() && inner.chars().all(|flag| flag.is_ascii_alphabetic() || flag == '-')).then_some(flags)
}

/// Whether these flags say that blanks and comments mean nothing.
fn ignores_blanks(flags: &str) -> bool {
    flags.split('-').next().is_some_and(|on| on.contains('x'))
}

/// An expression in which blanks and comments mean nothing, without them.
fn without_blanks(source: &str) -> String {
    let (mut kept, mut at) = (String::with_capacity(source.len()), 0);
    while let Some(first) = source[at..].chars().next() {
        let len = match first {
            '\\' => escape_len(&source[at..]),
            '[' => class_len(&source[at..]),
            '#' => source[at..].find('\n').unwrap_or(source.len() - at),
            _ => first.len_utf8(),
        };
        if first != '#' && !first.is_whitespace() {
            kept.push_str(&source[at..at + len]);
        }
        at += len;
    }
    kept
}

/// The parts between `|` that stand in no group and no class.
fn split_alternatives(source: &str) -> Vec<&str> {
    let (mut parts, mut start, mut at) = (Vec::new(), 0, 0);
    while at < source.len() {
        if source[at..].starts_with('|') {
            parts.push(&source[start..at]);
            start = at + 1;
        }
        at += atom_len(&source[at..]);
    }
    parts.push(&source[start..]);
    parts
}

/// The length of the atom at the start: a group, a class, an escape or a character.
fn atom_len(source: &str) -> usize {
    let Some(first) = source.chars().next() else { return 0 };
    match first {
        '(' => {
            let mut at = 1;
            while at < source.len() && !source[at..].starts_with(')') {
                at += atom_len(&source[at..]);
            }
            (at + 1).min(source.len())
        }
        '[' => class_len(source),
        '\\' => escape_len(source),
        other => other.len_utf8(),
    }
}

fn class_len(source: &str) -> usize {
    let mut at = 1;
    if source[at..].starts_with('^') {
        at += 1;
    }
    if source[at..].starts_with(']') {
        at += 1;
    }
    while at < source.len() && !source[at..].starts_with(']') {
        at += match source.as_bytes()[at] {
            b'[' => class_len(&source[at..]),
            b'\\' => escape_len(&source[at..]),
            _ => source[at..].chars().next().map_or(1, char::len_utf8),
        };
    }
    (at + 1).min(source.len())
}

fn escape_len(source: &str) -> usize {
    let rest = &source[1..];
    let braced = |from: usize, open: char, close: char| {
        rest[from..].starts_with(open).then(|| rest[from..].find(close).map_or(rest.len(), |end| from + end + 1))
    };
    let inner = match rest.chars().next() {
        None => 0,
        Some('p' | 'P' | 'x' | 'u' | 'U' | 'b') if rest[1..].starts_with('{') => braced(1, '{', '}').unwrap_or(1),
        Some('k') => braced(1, '<', '>').unwrap_or(1),
        Some('p' | 'P') => 2,
        Some('x') => 3,
        Some('u') => 5,
        Some('U') => 9,
        Some(first) if first.is_ascii_digit() => rest.chars().take_while(char::is_ascii_digit).count(),
        Some(first) => first.len_utf8(),
    };
    // A pattern that cannot be compiled may break off anywhere.
    source.ceil_char_boundary(1 + inner.min(rest.len()))
}

/// The length of the quantifier at the start, 0 if there is none.
fn quantifier_len(source: &str, state: &State) -> usize {
    let len = match source.chars().next() {
        Some('*' | '+' | '?') => 1,
        Some('{') => source.find('}').map_or(0, |end| end + 1),
        _ => return 0,
    };
    let manner = source[len..].starts_with('?') || (state.backtracks && source[len..].starts_with('+'));
    len + usize::from(manner)
}

fn concatenation(source: &str, depth: usize, state: &mut State, pieces: &mut Vec<PatternPiece>) {
    let mut at = 0;
    while at < source.len() {
        let mut end = at + atom_len(&source[at..]);
        let mut quantifier = quantifier_len(&source[end..], state);
        if quantifier == 0 && is_plain(&source[at..end]) {
            // Plain characters in a row are one text; the last goes to its quantifier.
            while end < source.len() {
                let next = end + atom_len(&source[end..]);
                if !is_plain(&source[end..next]) || quantifier_len(&source[next..], state) > 0 {
                    break;
                }
                end = next;
            }
        }
        let atom = &source[at..end];
        let (mut means, inner) = atom_means(atom, state);
        // Without the backtracking engine a second quantifier repeats what the first one makes.
        while quantifier > 0 {
            means = format!("{means}, {}", times(&source[end..end + quantifier]));
            end += quantifier;
            quantifier = quantifier_len(&source[end..], state);
        }
        match inner {
            Some("") => means += ", of nothing",
            Some(_) => means.push(':'),
            None => {}
        }
        pieces.push(PatternPiece { depth, source: source[at..end].to_owned(), means });
        if let Some(inner) = inner.filter(|inner| !inner.is_empty()) {
            let flags = atom.strip_prefix("(?").and_then(|group| group.split_once(':')).map_or("", |(flags, _)| flags);
            if ignores_blanks(flags) {
                alternatives(&without_blanks(inner), depth + 1, state, pieces);
            } else {
                alternatives(inner, depth + 1, state, pieces);
            }
        }
        at = end;
        if leading_flags(atom).is_some_and(ignores_blanks) {
            return concatenation(&without_blanks(&source[at..]), depth, state, pieces);
        }
    }
}

/// Whether an atom stands for itself.
fn is_plain(atom: &str) -> bool {
    let mut letters = atom.chars();
    match letters.next() {
        Some('\\') => {
            letters.next().is_some_and(|escaped| !escaped.is_ascii_alphanumeric() && !matches!(escaped, '<' | '>'))
        }
        Some(first) => !matches!(first, '.' | '^' | '$' | '[' | '(' | '|' | '*' | '+' | '?'),
        None => false,
    }
}

fn times(quantifier: &str) -> String {
    let (count, manner) = match quantifier.strip_suffix('?').filter(|count| !count.is_empty()) {
        Some(count) => (count, ", as few as will do"),
        None => match quantifier.strip_suffix('+').filter(|count| !count.is_empty()) {
            Some(count) => (count, ", all there are, giving none back"),
            None => (quantifier, ", as many as there are"),
        },
    };
    let numbers = count.trim_start_matches('{').trim_end_matches('}');
    match count {
        "" => String::new(),
        "*" => format!("any number of times or not at all{manner}"),
        "+" => format!("once or more{manner}"),
        "?" => "once or not at all".to_owned(),
        _ => match numbers.split_once(',') {
            None if numbers == "1" => "once".to_owned(),
            None => format!("{numbers} times"),
            Some((least, "")) => format!("{least} times or more{manner}"),
            Some((least, most)) => format!("{least} to {most} times{manner}"),
        },
    }
}

/// What an atom means, and what stands within it, to be explained in turn.
fn atom_means<'s>(atom: &'s str, state: &mut State) -> (String, Option<&'s str>) {
    if let Some(group) = atom.strip_prefix('(') {
        return group_means(group.strip_suffix(')').unwrap_or(group), state);
    }
    if let Some(class) = atom.strip_prefix('[').and_then(|class| class.strip_suffix(']')) {
        return (class_means(class), None);
    }
    let means = match atom {
        "." => "any character".to_owned(),
        "^" => "the start of the line".to_owned(),
        "$" => "the end of the line".to_owned(),
        _ if is_plain(atom) => format!("the text {}", quoted(&unescaped(atom))),
        _ => escape_means(atom),
    };
    (means, None)
}

fn group_means<'s>(group: &'s str, state: &mut State) -> (String, Option<&'s str>) {
    let looks = [
        ("?=", "only where this follows"),
        ("?!", "only where this does not follow"),
        ("?<=", "only where this stands before"),
        ("?<!", "only where this does not stand before"),
        ("?:", "together"),
        ("?>", "together, and once found not tried again"),
    ];
    for (opening, means) in looks {
        if let Some(inner) = group.strip_prefix(opening) {
            return (means.to_owned(), Some(inner));
        }
    }
    let named = group.strip_prefix("?P<").or_else(|| group.strip_prefix("?<"));
    if let Some((name, inner)) = named.and_then(|named| named.split_once('>')) {
        state.groups += 1;
        return (format!("group {}, called {name}", state.groups), Some(inner));
    }
    if let Some(flags) = group.strip_prefix('?') {
        let (flags, inner) = flags.split_once(':').map_or((flags, None), |(flags, inner)| (flags, Some(inner)));
        let (on, off) = flags.split_once('-').unwrap_or((flags, ""));
        let named = |flags: &str, not: &str| {
            let one = |flag: char| match flag {
                'i' => format!("letter case does{} count", if not.is_empty() { " not" } else { "" }),
                's' => format!(". takes line ends{not}"),
                'm' => format!("^ and $ hold at every line edge{not}"),
                'x' => format!("blanks in the pattern mean nothing{not}"),
                'R' => format!("CRLF is one line end too{not}"),
                'u' => format!("Unicode{not}"),
                'U' => format!("as few as will do becomes the rule{not}"),
                other => format!("flag {other}{not}"),
            };
            flags.chars().map(one).collect::<Vec<_>>()
        };
        let all = [named(on, ""), named(off, " (off)")].concat().join(", ");
        let from_here = if inner.is_some() { "within" } else { "from here on" };
        return (format!("{all}, {from_here}"), inner);
    }
    state.groups += 1;
    (format!("group {}", state.groups), Some(group))
}

fn escape_means(escape: &str) -> String {
    let rest = escape.strip_prefix('\\').unwrap_or(escape);
    let named = match rest {
        "d" => "a digit",
        "D" => "any character but a digit",
        "w" => "a letter, mark, digit or _",
        "W" => "any character but letters, marks, digits and _",
        "s" => "a blank or other white space",
        "S" => "any character but white space",
        "b" => "the edge of a word",
        "B" => "a place that is not an edge of a word",
        "b{start}" | "<" => "the start of a word",
        "b{end}" | ">" => "the end of a word",
        "A" => "the start of what the pattern sees",
        "z" | "Z" => "the end of what the pattern sees",
        "n" => "a line end",
        "r" => "a carriage return, which no pattern sees as such",
        "t" => "a tab",
        "f" => "a form feed",
        "v" => "a vertical tab",
        "a" => "a bell character",
        "b{start-half}" => "a place with no letter, mark, digit or _ before",
        "b{end-half}" => "a place with no letter, mark, digit or _ after",
        "K" => "and forget what was found before this",
        _ => "",
    };
    if !named.is_empty() {
        return named.to_owned();
    }
    let code = rest.trim_start_matches(['x', 'u', 'U']).trim_matches(['{', '}']);
    if rest.starts_with(['x', 'u', 'U'])
        && let Some(character) = u32::from_str_radix(code, 16).ok().and_then(char::from_u32)
    {
        return format!("the character U+{:04X} {}", u32::from(character), quoted(&character.to_string()));
    }
    if let Some(class) = rest.strip_prefix('p') {
        return format!("a character of {}", class.trim_matches(['{', '}']));
    }
    if let Some(class) = rest.strip_prefix('P') {
        return format!("any character but those of {}", class.trim_matches(['{', '}']));
    }
    if let Some(name) = rest.strip_prefix("k<") {
        return format!("the same again as group {} took", name.trim_end_matches('>'));
    }
    if rest.starts_with(|first: char| first.is_ascii_digit()) {
        return format!("the same again as group {rest} took");
    }
    format!("what the backtracking engine takes for {escape}")
}

fn class_means(class: &str) -> String {
    match class.strip_prefix('^') {
        Some(class) => format!("any character but {}", members(class)),
        None => format!("one of {}", members(class)),
    }
}

/// What is between the brackets of a class.
fn members(class: &str) -> String {
    let (mut all, mut members, mut at) = (String::new(), Vec::new(), 0);
    while at < class.len() {
        let operation = match class[at..].get(..2) {
            Some("&&") => ", of these only ",
            Some("--") => ", of these without ",
            Some("~~") => ", or else, but not both, ",
            _ => "",
        };
        if !operation.is_empty() {
            all += &(members.join(", ") + operation);
            members.clear();
            at += 2;
            continue;
        }
        let len = match class.as_bytes()[at] {
            b'\\' => escape_len(&class[at..]),
            b'[' => class_len(&class[at..]),
            _ => class[at..].chars().next().map_or(1, char::len_utf8),
        };
        let member = &class[at..at + len];
        let after = &class[at + len..];
        let last = after.strip_prefix('-').filter(|last| !last.is_empty() && !after.starts_with("--"));
        if let Some(last) = last.filter(|_| !member.starts_with('[')) {
            let last_len =
                if last.starts_with('\\') { escape_len(last) } else { last.chars().next().map_or(0, char::len_utf8) };
            members.push(format!("{} to {}", member_means(member), member_means(&last[..last_len])));
            at += len + 1 + last_len;
            continue;
        }
        members.push(member_means(member));
        at += len;
    }
    all + &members.join(", ")
}

fn member_means(member: &str) -> String {
    if let Some(inner) = member.strip_prefix("[:").and_then(|inner| inner.strip_suffix(":]")) {
        return match inner.strip_prefix('^') {
            Some(inner) => format!("any character but the class {inner}"),
            None => format!("the class {inner}"),
        };
    }
    if let Some(inner) = member.strip_prefix('[').and_then(|inner| inner.strip_suffix(']')) {
        return format!("({})", class_means(inner));
    }
    if member.starts_with('\\') && !is_plain(member) {
        return escape_means(member);
    }
    match &*unescaped(member) {
        " " => "a space".to_owned(),
        "," => "a comma".to_owned(),
        plain => plain.to_owned(),
    }
}

/// Plain characters without their backslashes.
fn unescaped(plain: &str) -> String {
    let mut text = String::with_capacity(plain.len());
    let mut letters = plain.chars();
    while let Some(letter) = letters.next() {
        text.extend(if letter == '\\' { letters.next() } else { Some(letter) });
    }
    text
}
