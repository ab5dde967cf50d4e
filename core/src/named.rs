//! One macro for every enum that has a code in files and in the API.

/// An enum whose values are written as codes: in files, in JSON and in the API's description. The same codes serve
/// [`serde`], `strum` and, with the feature `schema`, the description of the API.
#[macro_export]
macro_rules! named {
    ($(#[$doc:meta])* $name:ident { $($(#[$vdoc:meta])* $variant:ident = $code:tt),+ $(,)? }) => {
        $(#[$doc])*
        #[derive(
            Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize, serde::Deserialize,
            strum::EnumString, strum::IntoStaticStr, strum::VariantArray,
        )]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        pub enum $name {
            $($(#[$vdoc])* #[serde(rename = $code)] #[strum(serialize = $code)] $variant),+
        }
        impl $name {
            /// Every value, in the order of the documentation.
            pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;
            /// As written in files.
            #[must_use]
            pub fn code(self) -> &'static str {
                self.into()
            }
            /// Looks a code up.
            #[must_use]
            pub fn from_code(code: &str) -> Option<Self> {
                code.trim().parse().ok()
            }
            /// All codes, for messages.
            #[must_use]
            pub fn codes() -> String {
                Self::ALL.iter().map(|v| v.code()).collect::<Vec<_>>().join(", ")
            }
        }
    };
}
