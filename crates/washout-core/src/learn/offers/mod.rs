//! Every way the language has to describe what differs.

mod case_and_numbers;
mod clusters;
mod inserts;
mod keeps;
mod lines;
mod offer;
mod removals;
mod targets;
mod templates;
mod whole;

pub(super) use offer::{Offer, quoted};

use super::view::View;

/// Rules that may do some of what is left to be done.
pub(super) fn offers(view: &View) -> Vec<Offer> {
    let has_lines = view.lines.len() > view.texts.len() || view.moves_line_ends;
    let mut offers = whole::offers(has_lines);
    offers.extend(removals::offers(view));
    offers.extend(inserts::offers(view));
    offers.extend(templates::offers(view));
    offers.extend(keeps::offers(view));
    offers.extend(case_and_numbers::offers(view));
    offers.extend(lines::offers(view));
    offers
}
