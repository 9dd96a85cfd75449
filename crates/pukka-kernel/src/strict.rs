//! A reader that takes no list for an object: the program's records could be read from lists of their fields in order, and a
//! figure would land in whatever field stands there.

use std::fmt;

use serde::de::{DeserializeSeed, Deserializer, EnumAccess, Error, MapAccess, SeqAccess, Unexpected, VariantAccess, Visitor};

/// A reader whose objects are objects, however deep.
pub(super) struct Strict<D>(pub D);

macro_rules! forward {
    ($($method:ident($($argument:ident: $kind:ty),*);)+) => {
        $(fn $method<V: Visitor<'de>>(self, $($argument: $kind,)* visitor: V) -> Result<V::Value, D::Error> {
            self.0.$method($($argument,)* Inside { visitor, object: false })
        })+
    };
}

impl<'de, D: Deserializer<'de>> Deserializer<'de> for Strict<D> {
    type Error = D::Error;

    forward! {
        deserialize_any(); deserialize_bool(); deserialize_i8(); deserialize_i16(); deserialize_i32(); deserialize_i64();
        deserialize_i128(); deserialize_u8(); deserialize_u16(); deserialize_u32(); deserialize_u64(); deserialize_u128();
        deserialize_f32(); deserialize_f64(); deserialize_char(); deserialize_str(); deserialize_string(); deserialize_bytes();
        deserialize_byte_buf(); deserialize_option(); deserialize_unit(); deserialize_unit_struct(name: &'static str);
        deserialize_newtype_struct(name: &'static str); deserialize_seq(); deserialize_tuple(len: usize);
        deserialize_tuple_struct(name: &'static str, len: usize); deserialize_map();
        deserialize_enum(name: &'static str, variants: &'static [&'static str]); deserialize_identifier();
        deserialize_ignored_any();
    }

    fn deserialize_struct<V: Visitor<'de>>(
        self,
        name: &'static str,
        fields: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, D::Error> {
        self.0.deserialize_struct(name, fields, Inside { visitor, object: true })
    }

    fn is_human_readable(&self) -> bool {
        self.0.is_human_readable()
    }
}

/// Visitor that takes a value, and hands on a reader that is strict as well.
struct Inside<V> {
    visitor: V,
    /// A record: it is read from an object and from nothing else.
    object: bool,
}

macro_rules! forward_value {
    ($($method:ident: $kind:ty;)+) => {
        $(fn $method<E: Error>(self, value: $kind) -> Result<V::Value, E> {
            self.visitor.$method(value)
        })+
    };
}

impl<'de, V: Visitor<'de>> Visitor<'de> for Inside<V> {
    type Value = V::Value;

    fn expecting(&self, formatter: &mut fmt::Formatter) -> fmt::Result {
        self.visitor.expecting(formatter)
    }

    forward_value! {
        visit_bool: bool; visit_i64: i64; visit_i128: i128; visit_u64: u64; visit_u128: u128; visit_f64: f64; visit_char: char;
        visit_str: &str; visit_borrowed_str: &'de str; visit_string: String; visit_bytes: &[u8];
        visit_borrowed_bytes: &'de [u8]; visit_byte_buf: Vec<u8>;
    }

    fn visit_none<E: Error>(self) -> Result<V::Value, E> {
        self.visitor.visit_none()
    }

    fn visit_unit<E: Error>(self) -> Result<V::Value, E> {
        self.visitor.visit_unit()
    }

    fn visit_some<D: Deserializer<'de>>(self, reader: D) -> Result<V::Value, D::Error> {
        self.visitor.visit_some(Strict(reader))
    }

    fn visit_newtype_struct<D: Deserializer<'de>>(self, reader: D) -> Result<V::Value, D::Error> {
        self.visitor.visit_newtype_struct(Strict(reader))
    }

    fn visit_seq<A: SeqAccess<'de>>(self, list: A) -> Result<V::Value, A::Error> {
        if self.object {
            return Err(A::Error::invalid_type(Unexpected::Seq, &self));
        }
        self.visitor.visit_seq(Each(list))
    }

    fn visit_map<A: MapAccess<'de>>(self, object: A) -> Result<V::Value, A::Error> {
        self.visitor.visit_map(Each(object))
    }

    fn visit_enum<A: EnumAccess<'de>>(self, one: A) -> Result<V::Value, A::Error> {
        self.visitor.visit_enum(Each(one))
    }
}

/// Access to the inside of a list, an object or a choice.
struct Each<A>(A);

/// Seed that reads one value of it.
struct Seed<S>(S);

impl<'de, S: DeserializeSeed<'de>> DeserializeSeed<'de> for Seed<S> {
    type Value = S::Value;

    fn deserialize<D: Deserializer<'de>>(self, reader: D) -> Result<S::Value, D::Error> {
        self.0.deserialize(Strict(reader))
    }
}

impl<'de, A: SeqAccess<'de>> SeqAccess<'de> for Each<A> {
    type Error = A::Error;

    fn next_element_seed<S: DeserializeSeed<'de>>(&mut self, seed: S) -> Result<Option<S::Value>, A::Error> {
        self.0.next_element_seed(Seed(seed))
    }

    fn size_hint(&self) -> Option<usize> {
        self.0.size_hint()
    }
}

impl<'de, A: MapAccess<'de>> MapAccess<'de> for Each<A> {
    type Error = A::Error;

    fn next_key_seed<S: DeserializeSeed<'de>>(&mut self, seed: S) -> Result<Option<S::Value>, A::Error> {
        self.0.next_key_seed(seed)
    }

    fn next_value_seed<S: DeserializeSeed<'de>>(&mut self, seed: S) -> Result<S::Value, A::Error> {
        self.0.next_value_seed(Seed(seed))
    }

    fn size_hint(&self) -> Option<usize> {
        self.0.size_hint()
    }
}

impl<'de, A: EnumAccess<'de>> EnumAccess<'de> for Each<A> {
    type Error = A::Error;
    type Variant = Each<A::Variant>;

    fn variant_seed<S: DeserializeSeed<'de>>(self, seed: S) -> Result<(S::Value, Each<A::Variant>), A::Error> {
        self.0.variant_seed(seed).map(|(value, variant)| (value, Each(variant)))
    }
}

impl<'de, A: VariantAccess<'de>> VariantAccess<'de> for Each<A> {
    type Error = A::Error;

    fn unit_variant(self) -> Result<(), A::Error> {
        self.0.unit_variant()
    }

    fn newtype_variant_seed<S: DeserializeSeed<'de>>(self, seed: S) -> Result<S::Value, A::Error> {
        self.0.newtype_variant_seed(Seed(seed))
    }

    fn tuple_variant<V: Visitor<'de>>(self, len: usize, visitor: V) -> Result<V::Value, A::Error> {
        self.0.tuple_variant(len, Inside { visitor, object: false })
    }

    fn struct_variant<V: Visitor<'de>>(self, fields: &'static [&'static str], visitor: V) -> Result<V::Value, A::Error> {
        self.0.struct_variant(fields, Inside { visitor, object: true })
    }
}
