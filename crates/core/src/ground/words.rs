//! Enums of words, in a database as everywhere else.

/// Makes enums stand in a database as the word they have in the API; nothing at all without the feature `sql`.
#[cfg(feature = "sql")]
#[macro_export]
macro_rules! kept_as_words {
    ($($name:ty),+ $(,)?) => {$(
        impl rusqlite::types::ToSql for $name {
            fn to_sql(&self) -> rusqlite::Result<rusqlite::types::ToSqlOutput<'_>> {
                Ok($crate::ground::sql::word(self).into())
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
