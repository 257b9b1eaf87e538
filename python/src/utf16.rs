//! Files in UTF-16, which a byte order mark at their start says.

use encoding_rs::{DecoderResult, Encoding, UTF_16BE, UTF_16LE};

/// The encoding, if the file says that it is UTF-16.
pub(crate) fn encoding_of(content: &[u8]) -> Option<&'static Encoding> {
    match content {
        [0xFF, 0xFE, ..] => Some(UTF_16LE),
        [0xFE, 0xFF, ..] => Some(UTF_16BE),
        _ => None,
    }
}

/// The file in UTF-8, its byte order mark included.
///
/// # Errors
/// It has half a character, or half of a pair of surrogates: such a text would not come back as it was.
pub(crate) fn decode(content: &[u8], encoding: &'static Encoding) -> Result<Vec<u8>, String> {
    let mut decoder = encoding.new_decoder_without_bom_handling();
    let mut text =
        String::with_capacity(decoder.max_utf8_buffer_length_without_replacement(content.len()).unwrap_or(0));
    let (result, _) = decoder.decode_to_string_without_replacement(content, &mut text, true);
    if let DecoderResult::Malformed(..) = result {
        let line = 1 + text.bytes().filter(|byte| *byte == b'\n').count();
        let name = encoding.name();
        return Err(format!(
            "it is read as {name}, and holds bytes that mean nothing in it, at line {line} or after it"
        ));
    }
    Ok(text.into_bytes())
}

/// UTF-8 in the encoding again.
///
/// # Errors
/// Rules have left something that is not UTF-8.
pub(crate) fn encode(text: &[u8], encoding: &'static Encoding) -> Result<Vec<u8>, String> {
    let text = std::str::from_utf8(text).map_err(|_| {
        format!("rules have left bytes that are not UTF-8, so that the result cannot be {}", encoding.name())
    })?;
    let units = text.encode_utf16();
    Ok(if encoding == UTF_16LE {
        units.flat_map(u16::to_le_bytes).collect()
    } else {
        units.flat_map(u16::to_be_bytes).collect()
    })
}
