//! The profiles that ship with the program. None is of a product: they speak what the standards have, and are copied and changed.

/// A profile that comes along.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Shipped {
    /// File's name.
    pub file: &'static str,
    /// The profile, as TOML.
    pub text: &'static str,
}

/// Profile of the stand-in bench, and of any instrument that speaks the plainest SCPI there is.
pub const GENERIC: &str = include_str!("profiles/generic.toml");

/// Every one of them.
pub const SHIPPED: [Shipped; 6] = [
    Shipped { file: "generic.toml", text: GENERIC },
    Shipped { file: "scpi-multimeter.toml", text: include_str!("profiles/scpi-multimeter.toml") },
    Shipped { file: "scpi-supply.toml", text: include_str!("profiles/scpi-supply.toml") },
    Shipped { file: "scpi-function-generator.toml", text: include_str!("profiles/scpi-function-generator.toml") },
    Shipped { file: "scpi-scope.toml", text: include_str!("profiles/scpi-scope.toml") },
    Shipped { file: "serial-multimeter.toml", text: include_str!("profiles/serial-multimeter.toml") },
];
