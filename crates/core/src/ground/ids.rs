//! Row ids as newtypes, so that one kind cannot stand in for another.

macro_rules! ids {
    ($($(#[$doc:meta])* $name:ident),+ $(,)?) => {$(
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, serde::Serialize, serde::Deserialize)]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        #[serde(transparent)]
        pub struct $name(pub i64);

        impl std::fmt::Display for $name {
            fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                self.0.fmt(f)
            }
        }
    )+};
}

ids! {
    /// A node of the tree.
    AssetId,
    /// An operating calendar.
    CalendarId,
    /// Something read on an asset.
    MeterId,
    /// One version of a meter's limit ladder.
    LadderVersionId,
    /// A rung entered, until it is left.
    AlarmId,
    /// The number people call a work order by.
    WorkOrderId,
    /// One line of spent hours, material, service or tool.
    EntryId,
    /// One interval of downtime.
    DowntimeId,
    /// One coded failure.
    FailureId,
    /// A person.
    PersonId,
    /// A crew.
    CrewId,
    /// A codebook.
    CodebookId,
    /// A problem, cause or remedy.
    CodeId,
    /// Something that is bought: a part, a service.
    ItemId,
    /// Who sells it.
    SupplierId,
    /// Work that recurs.
    PlanId,
    /// One time that recurring work fell due.
    CycleId,
    /// A check sheet that stands with an order.
    CheckId,
}
