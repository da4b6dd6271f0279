//! Enums of words, in a database as everywhere else.

use serde::Serialize;

/// An enum as the word it has in the API and in files.
///
/// # Panics
/// If the type is not written as a text.
pub fn word<T: Serialize>(value: &T) -> String {
    match serde_json::to_value(value) {
        Ok(serde_json::Value::String(word)) => word,
        other => unreachable!("enums of words are written as strings, not {other:?}"),
    }
}

/// Makes enums stand in a database as the word they have in the API; nothing at all without the feature `sql`.
#[cfg(feature = "sql")]
#[macro_export]
macro_rules! kept_as_words {
    ($($name:ty),+ $(,)?) => {$(
        impl rusqlite::types::ToSql for $name {
            fn to_sql(&self) -> rusqlite::Result<rusqlite::types::ToSqlOutput<'_>> {
                Ok($crate::ground::words::word(self).into())
            }
        }

        impl rusqlite::types::FromSql for $name {
            fn column_result(value: rusqlite::types::ValueRef<'_>) -> rusqlite::types::FromSqlResult<Self> {
                $crate::ground::sql::from_word(value, stringify!($name))
            }
        }
    )+};
}

#[cfg(not(feature = "sql"))]
#[macro_export]
macro_rules! kept_as_words {
    ($($name:ty),+ $(,)?) => {};
}

/// Makes a type described in the API as the fields that it is written as.
#[cfg(feature = "schema")]
#[macro_export]
macro_rules! described_as {
    ($name:ty, $fields:ty) => {
        impl utoipa::PartialSchema for $name {
            fn schema() -> utoipa::openapi::RefOr<utoipa::openapi::schema::Schema> {
                <$fields as utoipa::PartialSchema>::schema()
            }
        }

        impl utoipa::ToSchema for $name {
            fn name() -> std::borrow::Cow<'static, str> {
                <$fields as utoipa::ToSchema>::name()
            }

            fn schemas(all: &mut Vec<(String, utoipa::openapi::RefOr<utoipa::openapi::schema::Schema>)>) {
                <$fields as utoipa::ToSchema>::schemas(all);
            }
        }
    };
}
