//! What a rung has to say, in work and in mail.

use super::subject::{Entered, Subject};
use crate::{
    ground::{error::Result, rows::from_word, tx::Tx},
    outside::{outbox, outbox::Mail},
};
use rusqlite::Connection;
use tally_core::{
    ground::{
        ids::{AssetId, WorkOrderId},
        time::{DAY, Instant},
    },
    plant::assets::Criticality,
    watch::limits::{
        Rung,
        respond::rank,
        words::{Names, work_words},
    },
};

/// What a rung has to say, whether in work or in mail.
pub(super) struct Said {
    pub title: String,
    pub text: String,
    pub rank: u8,
    pub start: Option<Instant>,
}

impl Said {
    pub(super) fn of(tx: &Tx, subject: &Subject, rung: &Rung, entered: Entered) -> Result<Self> {
        let asset = asset_name(tx.conn, subject.asset)?;
        let names = Names { meter: &subject.name, asset: &asset };
        let looked_at = entered.looked_at.unwrap_or(entered.value);
        let (title, text) = work_words(&subject.rules, rung, entered.value, looked_at, names);
        let rank = rank(&rung.response, rung.severity, criticality(tx.conn, subject.asset)?);
        let days = rung.response.work().and_then(|work| work.start_within_days);
        let start = days.map(|days| tx.now.plus(i64::from(days) * DAY));
        Ok(Self { title, text, rank, start })
    }
}

/// Puts mail to the rung's people into the outbox: the same words as the work's; and to the one who decides, that it is
/// theirs to decide.
pub(super) fn tell(tx: &Tx, subject: &Subject, rung: &Rung, said: &Said, work: Option<WorkOrderId>) -> Result<()> {
    let Said { title, text, .. } = said;
    let mail = |person: &str, subject_line: String| {
        outbox::put(tx, &Mail { person, subject: &subject_line, body: text, meter: subject.id, work })
    };
    let Some(told) = rung.response.told() else { return Ok(()) };
    let decides = told.decides.as_deref();
    for person in told.tell.iter().filter(|person| Some(person.as_str()) != decides) {
        mail(person, title.clone())?;
    }
    decides.map_or(Ok(()), |person| mail(person, format!("Yours to decide: {title}")))
}

fn criticality(conn: &Connection, asset: AssetId) -> Result<Option<Criticality>> {
    let text: Option<String> =
        conn.prepare_cached("SELECT criticality FROM assets WHERE id = ?1")?.query_row([asset], |row| row.get(0))?;
    text.map(|text| from_word("assets", text)).transpose()
}

fn asset_name(conn: &Connection, asset: AssetId) -> Result<String> {
    Ok(conn.prepare_cached("SELECT name FROM assets WHERE id = ?1")?.query_row([asset], |row| row.get(0))?)
}
