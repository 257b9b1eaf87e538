//! The frame of a page: one file, no script, nothing loaded from elsewhere.

use maud::{DOCTYPE, Markup, PreEscaped, html};

use crate::show::visible::{GlyphLook, glyphs, text_of};

const STYLE: &str = include_str!("page.css");

/// A whole page. `filters`: more style, made for what is on it.
pub(super) fn page(title: &str, filters: &str, body: &Markup) -> String {
    let page = html! {
        (DOCTYPE)
        html lang="en" {
            head {
                meta charset="utf-8";
                meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'";
                meta name="viewport" content="width=device-width, initial-scale=1";
                meta name="color-scheme" content="light dark";
                title { (title) }
                style { (PreEscaped(STYLE)) (PreEscaped(filters)) }
            }
            body { (body) }
        }
    };
    page.into_string()
}

/// Text with everything in it visible.
pub(super) fn drawn(bytes: &[u8], look: GlyphLook) -> String {
    text_of(&glyphs(bytes, look))
}

/// A bar as long as its share of the longest one, with the number in words beside it.
pub(super) fn bar(value: u64, longest: u64) -> Markup {
    let per_mille = (value * 1000).checked_div(longest).unwrap_or(0);
    let width = format!("--share: {}.{}%", per_mille / 10, per_mille % 10);
    html! { span.bar style=(width) aria-hidden="true" {} }
}
