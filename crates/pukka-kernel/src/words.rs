//! Closed lists of words: an enum whose members each have one word, the same in code, in files and over HTTP.

/// Makes an enum with `ALL`, `word` and `from_word`; its JSON is the word.
#[macro_export]
macro_rules! words {
    ($(#[$meta:meta])* $Name:ident { $($(#[$doc:meta])* $Variant:ident = $word:tt,)+ }) => {
        $(#[$meta])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize, serde::Deserialize, utoipa::ToSchema)]
        pub enum $Name {
            $($(#[$doc])* #[serde(rename = $word)] $Variant,)+
        }

        impl $Name {
            /// Every one there is.
            pub const ALL: &'static [Self] = &[$(Self::$Variant),+];

            /// Word in files.
            #[must_use]
            pub const fn word(self) -> &'static str {
                match self {
                    $(Self::$Variant => $word,)+
                }
            }

            /// The one that a word stands for.
            #[must_use]
            pub fn from_word(word: &str) -> Option<Self> {
                Self::ALL.iter().copied().find(|one| one.word() == word)
            }
        }

        impl std::fmt::Display for $Name {
            fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str(self.word())
            }
        }
    };
}

pub use words;
