//! Cells of columns in memory: each is there as it was pushed, however they are taken apart.

use proptest::collection::vec;
use proptest::option;
use proptest::prelude::*;
use washout_core::table::{Cells, WashedCells};
use washout_core::{Program, RuleSet};

fn cell() -> impl Strategy<Value = Option<Vec<u8>>> {
    option::weighted(0.8, vec(prop::sample::select(&b"ab#, \n\xFF"[..]), 0..6))
}

fn bytes(cells: &[Option<Vec<u8>>]) -> Vec<Option<&[u8]>> {
    cells.iter().map(Option::as_deref).collect()
}

fn all(cells: &WashedCells) -> Vec<Option<&[u8]>> {
    (0..cells.count()).map(|at| cells.cell(at)).collect()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, ..ProptestConfig::default() })]

    #[test]
    fn cells_are_as_they_were_pushed(cells in vec(cell(), 0..12), cut in any::<prop::sample::Index>()) {
        let given = bytes(&cells);
        let collected: WashedCells = given.iter().copied().collect();
        prop_assert_eq!(all(&collected), given.clone());
        let missing = if given.contains(&None) { given.iter().map(Option::is_none).collect() } else { Vec::new() };
        prop_assert_eq!(collected.missing(), missing);
        let offsets = collected.offsets();
        prop_assert_eq!((offsets.len(), offsets[0], offsets[given.len()]), (given.len() + 1, 0, collected.values().len()));
        for (at, cell) in given.iter().enumerate() {
            prop_assert_eq!(&collected.values()[offsets[at]..offsets[at + 1]], cell.unwrap_or_default());
        }
        let cut = cut.index(given.len() + 1);
        let parts = [collected.part(0..cut), collected.part(cut..given.len())];
        prop_assert_eq!(parts.iter().flat_map(all).collect::<Vec<_>>(), given);
        let (values, offsets) = (collected.values().to_vec(), collected.offsets().to_vec());
        prop_assert_eq!(collected.into_parts(), (values, offsets));
    }

    #[test]
    fn a_column_becomes_what_each_of_its_cells_becomes_alone(cells in vec(cell(), 0..40), from in any::<prop::sample::Index>()) {
        let rules = "[[rule]]\nremove.chars = '#'\n[[rule]]\ntrim = {}\n[[rule]]\nreplace = { text = 'ab', with = 'ba' }\n";
        let program = Program::compile([&RuleSet::read("cells", rules).expect("good rules")]);
        let given = bytes(&cells);
        let from = from.index(given.len() + 1);
        let washer = program.column_washer().expect("rules for cells");
        let washed = washer.wash(&given[..], from..given.len()).expect("cells that can be washed");
        let alone = |cell: &[u8]| program.apply(cell).expect("a text").text().to_vec();
        let want: Vec<Option<Vec<u8>>> = given[from..].iter().map(|cell| cell.map(alone)).collect();
        // Nothing is given only where nothing changes.
        let got = washed.cells.as_ref().map_or_else(|| given[from..].to_vec(), all);
        prop_assert_eq!(got, bytes(&want));
    }
}
