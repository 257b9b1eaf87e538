//! Regular expressions that several stretches of text have in common.

use std::fmt::Write as _;

use super::token::{Kind, Token, is_digit, tokens};

/// A regular expression, or a part of one, and what it costs: the fewer and more general its parts, the less.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(super) struct Pattern {
    pub(super) source: String,
    pub(super) price: u32,
}

impl Pattern {
    pub(super) fn new(source: impl Into<String>, price: u32) -> Self {
        Self { source: source.into(), price }
    }

    /// Takes this text alone. What several samples have in common is likely to be meant: it costs less than what one has.
    pub(super) fn literal(text: &[char], is_shared: bool) -> Self {
        let mut source = String::new();
        text.iter().for_each(|character| push_escaped(&mut source, *character, r"\.+*?()|[]{}^$"));
        let price = |token: &Token| match token.kind {
            Kind::Marks(_) => 2,
            Kind::Blanks => 1,
            Kind::Letters | Kind::Digits if is_shared => 3,
            Kind::Letters => 4 + size(&text[token.range.clone()]) / 2,
            Kind::Digits => 4 + size(&text[token.range.clone()]),
        };
        Self::new(source, tokens(text).iter().map(price).sum())
    }

    /// One after the other.
    pub(super) fn then(&self, next: &Self) -> Self {
        Self::new(format!("{}{}", self.source, next.source), self.price + next.price)
    }

    /// With this before and after it, for so much more.
    pub(super) fn between(&self, before: &str, after: &str, price: u32) -> Self {
        Self::new(format!("{before}{}{after}", self.source), self.price + price)
    }
}

/// A length as a price.
pub(super) fn size<T>(items: &[T]) -> u32 {
    u32::try_from(items.len()).unwrap_or(u32::MAX / 1000)
}

fn push_escaped(source: &mut String, character: char, special: &str) {
    match character {
        '\t' => source.push_str(r"\t"),
        '\n' => source.push_str(r"\n"),
        '\r' => source.push_str(r"\r"),
        _ if special.contains(character) => source.extend(['\\', character]),
        _ if character.is_control() || (character.is_whitespace() && character != ' ') => {
            let _ = write!(source, r"\x{{{:X}}}", u32::from(character));
        }
        _ => source.push(character),
    }
}

/// What letters of these words have in common: `\p{Lu}`, `\p{Ll}` or `\p{L}`.
fn letter_class<'t>(words: &(impl Iterator<Item = &'t [char]> + Clone)) -> &'static str {
    let all = |is: fn(char) -> bool| words.clone().flatten().all(|letter| is(*letter));
    if all(char::is_uppercase) {
        r"\p{Lu}"
    } else if all(char::is_lowercase) {
        r"\p{Ll}"
    } else {
        r"\p{L}"
    }
}

/// How much a pattern holds of what it was made of.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Detail {
    /// Words that are the same in all samples stay; numbers become any number.
    Usual,
    /// The same, and a number that has as many digits in all samples keeps its length.
    Lengths,
    /// All that is the same in all samples stays.
    Same,
    /// Words become any words.
    Words,
}

impl Detail {
    pub(super) const ALL: [Self; 4] = [Self::Usual, Self::Lengths, Self::Same, Self::Words];
}

/// One pattern for the tokens that stand at one place of all samples, and are of one kind.
pub(super) fn token_pattern(kind: Kind, samples: &[&[char]], detail: Detail, is_shared: bool) -> Pattern {
    let first = samples[0];
    let is_same = samples.iter().all(|sample| *sample == first);
    let is_as_long = samples.iter().all(|sample| sample.len() == first.len());
    let is_kept = match kind {
        Kind::Digits => detail == Detail::Same,
        Kind::Letters => detail != Detail::Words,
        Kind::Blanks | Kind::Marks(_) => true,
    };
    match kind {
        _ if is_same && is_kept => Pattern::literal(first, is_shared),
        Kind::Digits if is_as_long && detail == Detail::Lengths => match first.len() {
            1 => Pattern::new(r"\d", 4),
            2 => Pattern::new(r"\d\d", 5),
            length => Pattern::new(format!(r"\d{{{length}}}"), 6),
        },
        Kind::Digits => Pattern::new(r"\d+", 4),
        Kind::Letters => {
            let class = letter_class(&samples.iter().copied());
            let is_one = samples.iter().all(|sample| sample.len() == 1);
            if is_one { Pattern::new(class, 5) } else { Pattern::new(format!("{class}+"), 7) }
        }
        Kind::Blanks => Pattern::new(" +", 4),
        Kind::Marks(mark) if samples.iter().all(|sample| sample.len() > 1) => {
            Pattern::literal(&[mark], is_shared).between("", "{2,}", 2)
        }
        Kind::Marks(mark) => Pattern::literal(&[mark], is_shared).between("", "+", 2),
    }
}

/// The most patterns for the same texts.
const MOST_PATTERNS: usize = 7;

/// Patterns that take each of these texts whole, the likeliest ones. Without texts there is none.
pub(super) fn patterns_of(samples: &[&[char]]) -> Vec<Pattern> {
    let is_shared = samples.len() > 1;
    let mut samples = samples.to_vec();
    samples.sort_unstable();
    samples.dedup();
    if samples.is_empty() {
        return Vec::new();
    }
    let cut: Vec<Vec<Token>> = samples.iter().map(|sample| tokens(sample)).collect();
    let mut patterns = Vec::new();
    if is_one_shape(&cut) {
        for detail in Detail::ALL {
            // One text says little about what other words may stand there.
            let doubt = if detail == Detail::Words && !is_shared { 6 } else { 0 };
            patterns.push(row(&samples, &cut, 0..cut[0].len(), false, detail, is_shared).between("", "", doubt));
        }
        let words = cut[0].iter().filter(|token| token.kind.is_word()).count();
        let has_letters = cut[0].iter().any(|token| token.kind == Kind::Letters);
        if words > 1 || (is_shared && has_letters && samples.len() > 1) {
            patterns.extend(open(&samples, &cut, is_shared));
        }
    } else {
        patterns.extend(choice_of_tokens(&samples, &cut, is_shared));
        patterns.extend(open(&samples, &cut, is_shared));
    }
    patterns.sort_by(|one, other| one.source.cmp(&other.source).then(one.price.cmp(&other.price)));
    patterns.dedup_by(|one, other| one.source == other.source);
    patterns.sort_by_key(|pattern| pattern.price);
    patterns.truncate(MOST_PATTERNS);
    patterns
}

pub(super) fn is_one_shape(cut: &[Vec<Token>]) -> bool {
    cut.iter().all(|tokens| tokens.len() == cut[0].len())
        && (0..cut[0].len()).all(|at| cut.iter().all(|tokens| tokens[at].kind == cut[0][at].kind))
}

/// The tokens at these places, counted from the start or from the end, one after the other.
fn row(
    samples: &[&[char]],
    cut: &[Vec<Token>],
    places: std::ops::Range<usize>,
    from_end: bool,
    detail: Detail,
    is_shared: bool,
) -> Pattern {
    let token_at = |place: usize, tokens: &[Token]| {
        let at = if from_end { tokens.len() - 1 - place } else { place };
        tokens[at].clone()
    };
    let mut parts: Vec<Pattern> = places
        .map(|place| {
            let kind = token_at(place, &cut[0]).kind;
            let texts: Vec<&[char]> =
                samples.iter().zip(cut).map(|(sample, tokens)| &sample[token_at(place, tokens).range]).collect();
            token_pattern(kind, &texts, detail, is_shared)
        })
        .collect();
    if from_end {
        parts.reverse();
    }
    parts.iter().fold(Pattern::new("", 0), |all, part| all.then(part))
}

/// Where samples have as many tokens, but of other kinds: at each place one of these.
fn choice_of_tokens(samples: &[&[char]], cut: &[Vec<Token>], is_shared: bool) -> Option<Pattern> {
    if cut.iter().any(|tokens| tokens.len() != cut[0].len()) {
        return None;
    }
    let mut all = Pattern::new("", 0);
    for at in 0..cut[0].len() {
        let texts: Vec<(Kind, &[char])> = samples
            .iter()
            .zip(cut)
            .map(|(sample, tokens)| (tokens[at].kind, &sample[tokens[at].range.clone()]))
            .collect();
        let mut kinds: Vec<Kind> = Vec::new();
        texts.iter().for_each(|(kind, _)| {
            if !kinds.contains(kind) {
                kinds.push(*kind);
            }
        });
        let of_kind = |wanted: Kind| -> Vec<&[char]> {
            texts.iter().filter(|(kind, _)| *kind == wanted).map(|(_, text)| *text).collect()
        };
        let is_single_mark =
            |kind: &Kind| matches!(kind, Kind::Marks(_)) && of_kind(*kind).iter().all(|text| text.len() == 1);
        let part = if let [one] = kinds[..] {
            token_pattern(one, &of_kind(one), Detail::Usual, is_shared)
        } else if kinds.iter().all(is_single_mark) {
            class_of(&texts.iter().flat_map(|(_, text)| text.iter().copied()).collect::<Vec<_>>())
                .map(|class| Pattern::new(class.source, 2 + size(&kinds)))?
        } else {
            let parts: Vec<Pattern> =
                kinds.iter().map(|kind| token_pattern(*kind, &of_kind(*kind), Detail::Words, is_shared)).collect();
            let price = 3 * size(&parts);
            Pattern::new(
                format!("(?:{})", parts.iter().map(|part| &part.source[..]).collect::<Vec<_>>().join("|")),
                price,
            )
        };
        all = all.then(&part);
    }
    Some(all)
}

/// What the samples begin and end with alike, and any text of the kind between.
fn open(samples: &[&[char]], cut: &[Vec<Token>], is_shared: bool) -> Vec<Pattern> {
    let fewest = cut.iter().map(Vec::len).min().unwrap_or(0);
    let is_single = is_one_shape(cut);
    let alike = |from_end: bool, most: usize| {
        let kind_at =
            |tokens: &[Token], place: usize| tokens[if from_end { tokens.len() - 1 - place } else { place }].kind;
        (0..most)
            .take_while(|place| cut.iter().all(|tokens| kind_at(tokens, *place) == kind_at(&cut[0], *place)))
            .count()
    };
    let starts = if is_single {
        usize::from(cut[0].first().is_some_and(|token| !token.kind.is_word()))
    } else {
        alike(false, fewest)
    };
    let mut patterns = Vec::new();
    // A start that is shorter by a token may leave more in common at the end.
    let most_starts = starts;
    for starts in [Some(starts), starts.checked_sub(1), starts.checked_sub(2)].into_iter().flatten() {
        let ends = if is_single { usize::from(fewest > 1) } else { alike(true, fewest - starts) };
        let most_ends = ends;
        for ends in [Some(ends), ends.checked_sub(1)].into_iter().flatten() {
            let start = row(samples, cut, 0..starts, false, Detail::Usual, is_shared);
            let end = row(samples, cut, 0..ends, true, Detail::Usual, is_shared);
            let middles: Vec<&[char]> = samples
                .iter()
                .zip(cut)
                .map(|(sample, tokens)| {
                    let from = tokens.get(starts).map_or(sample.len(), |token| token.range.start);
                    let to = if ends == 0 { sample.len() } else { tokens[tokens.len() - ends].range.start };
                    &sample[from..to.max(from)]
                })
                .collect();
            let next = (ends > 0).then(|| samples[0][cut[0][cut[0].len() - ends].range.start]);
            // Fewer ends than there could be, as fewer starts, leave out what the samples have in common.
            let left_out = 3 * u32::from(ends + starts < most_ends + most_starts);
            // A pattern for anything has to be held by a mark or word that stands for itself.
            let is_held = !is_plain(&start) || !is_plain(&end);
            for (middle, is_anything) in any_of(&middles, next) {
                if is_held || !is_anything {
                    patterns.push(start.then(&middle).then(&end).between("", "", left_out));
                }
            }
        }
    }
    patterns
}

/// Whether there is nothing in it that stands for itself, but blanks.
fn is_plain(pattern: &Pattern) -> bool {
    matches!(
        &pattern.source[..],
        "" | " " | " +" | r"\d+" | r"\p{L}+" | r"\p{Lu}+" | r"\p{Ll}+" | r"\p{L}" | r"\p{Lu}" | r"\p{Ll}"
    )
}

/// Patterns for stretches that have nothing in common, and whether each takes anything; `next` is what follows all of them.
fn any_of(middles: &[&[char]], next: Option<char>) -> Vec<(Pattern, bool)> {
    let mut patterns = Vec::new();
    let has_empty = middles.iter().any(|middle| middle.is_empty());
    let filled: Vec<&[char]> = middles.iter().copied().filter(|middle| !middle.is_empty()).collect();
    if filled.is_empty() {
        return vec![(Pattern::new("", 0), false)];
    }
    let repeat = if has_empty { "*" } else { "+" };
    if has_empty {
        let cut: Vec<Vec<Token>> = filled.iter().map(|sample| tokens(sample)).collect();
        if is_one_shape(&cut) {
            let inner = row(&filled, &cut, 0..cut[0].len(), false, Detail::Usual, filled.len() > 1);
            patterns.push((
                // After a repeat, `?` would say how it is matched.
                if matches!(filled[..], [[_]]) && !inner.source.ends_with(['+', '}']) {
                    inner.between("", "?", 4)
                } else {
                    inner.between("(?:", ")?", 6)
                },
                false,
            ));
        }
    }
    let characters: Vec<char> = filled.iter().flat_map(|text| text.iter().copied()).collect();
    patterns.extend(class_of(&characters).map(|class| (class.between("", repeat, 2), false)));
    match next {
        None => patterns.push((Pattern::new(if has_empty { ".*" } else { ".+" }, 10), true)),
        Some(next) if !characters.contains(&next) => {
            let mut class = String::from("[^");
            push_escaped(&mut class, next, r"\[]^-&~");
            patterns.push((Pattern::new(format!("{class}]{repeat}"), if next == ' ' { 10 } else { 6 }), true));
        }
        Some(_) => patterns.push((Pattern::new(format!(".{repeat}?"), 13), true)),
    }
    patterns
}

/// A class of one character for all of these; `None` if there are too many kinds of them.
pub(super) fn class_of(characters: &[char]) -> Option<Pattern> {
    const MOST_MARKS: usize = 5;
    let mut inside = String::new();
    let mut price = 3;
    let letters: Vec<char> =
        characters.iter().copied().filter(|character| Kind::of(*character) == Kind::Letters).collect();
    if !letters.is_empty() {
        inside.push_str(letter_class(&[&letters[..]].into_iter()));
        price += 3;
    }
    if characters.iter().any(|character| is_digit(*character)) {
        inside.push_str(r"\d");
        price += 2;
    }
    let mut marks: Vec<char> = characters.iter().copied().filter(|character| !Kind::of(*character).is_word()).collect();
    marks.sort_unstable();
    marks.dedup();
    if marks.len() > MOST_MARKS {
        return None;
    }
    price += marks.iter().map(|mark| if mark.is_ascii() { 2 } else { 5 }).sum::<u32>();
    marks.iter().for_each(|mark| push_escaped(&mut inside, *mark, r"\[]^-&~"));
    let is_one_class = marks.is_empty() && inside.matches('\\').count() == 1;
    match (&marks[..], is_one_class) {
        (_, true) => Some(Pattern::new(inside, price)),
        ([one], false) if inside.chars().count() <= 2 => Some(Pattern::literal(&[*one], true)),
        _ => Some(Pattern::new(format!("[{inside}]"), price)),
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn each_pattern_takes_each_sample_whole(samples in prop::collection::vec("[aZ1 .\\[-^]{1,8}", 1..4)) {
            let samples: Vec<Vec<char>> = samples.iter().map(|sample| sample.chars().collect()).collect();
            let slices: Vec<&[char]> = samples.iter().map(|sample| &sample[..]).collect();
            for pattern in patterns_of(&slices) {
                let regex = regex::Regex::new(&format!("^(?:{})$", pattern.source)).expect("a pattern");
                for sample in &samples {
                    let sample: String = sample.iter().collect();
                    prop_assert!(regex.is_match(&sample), "{} does not take {sample:?}", pattern.source);
                }
            }
        }
    }
}
