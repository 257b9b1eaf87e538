//! Kinds that rules name by a word.

/// Declares an enum of which every variant has a word by which rules name it: one table for reading rules, for the schema and
/// for sentences about them.
macro_rules! choices {
    (
        $(#[$doc:meta])*
        pub enum $name:ident {
            $($(#[$variant_doc:meta])* $variant:ident = $word:literal,)+
        }
    ) => {
        $(#[$doc])*
        #[derive(Clone, Copy, Debug, PartialEq, Eq)]
        pub enum $name {
            $($(#[$variant_doc])* $variant,)+
        }

        impl $name {
            /// Each of them, with the word by which rules name it.
            pub const NAMED: &'static [(&'static str, Self)] = &[$(($word, Self::$variant),)+];

            /// The word by which rules name it.
            pub fn name(self) -> &'static str {
                match self {
                    $(Self::$variant => $word,)+
                }
            }
        }
    };
}
pub(crate) use choices;
