//! Writes mail as files (RFC 5322) into the folder `outbox` beside the data: what a mail server would pick up.

use lettre::{
    Message,
    message::{Mailbox, header::ContentType},
};
use std::{io::Write, path::Path};
use tally_core::ground::{texts::flattened, time::Instant};
use tally_store::{
    Actor, Store, StoreError,
    access::people,
    ground::folder::{make_private, private_file},
    outside::outbox,
    plant::settings,
};

/// Messages written at one go.
const AT_ONCE: usize = 200;

/// Where answers to nobody go, and who has no address of their own.
const DOMAIN: &str = "fair-tally.invalid";

/// One message as it goes over the wire.
fn written(message: &outbox::Message, from: &str) -> Result<Vec<u8>, String> {
    let own = format!("{}@{DOMAIN}", message.person);
    let address = message.mail.as_deref().unwrap_or(&own);
    let address = address.parse().map_err(|error| format!("{address:?} is no mail address: {error}"))?;
    let sender = format!("tally@{DOMAIN}").parse().map_err(|error| format!("{error}"))?;
    let at = std::time::UNIX_EPOCH + std::time::Duration::from_millis(u64::try_from(message.at.ms()).unwrap_or(0));
    let mail = Message::builder()
        .from(Mailbox::new(Some(flattened(from)), sender))
        .to(Mailbox::new(Some(flattened(&message.person_name)), address))
        .subject(flattened(&message.subject))
        .date(at)
        .message_id(Some(format!("<{}.{}@{DOMAIN}>", message.id, message.at.ms())))
        .header(ContentType::TEXT_PLAIN);
    let order = message.work_order.map(|work| format!("\n\nWork order {work}")).unwrap_or_default();
    let mail = mail.body(format!("{}{order}\n", message.body)).map_err(|error| error.to_string())?;
    Ok(mail.formatted())
}

/// Writes the files of all messages that are not sent yet. A file is named by its message, so that one that was written
/// before a crash is written again and not twice.
pub(super) fn send(store: &Store, now: Instant) -> Result<(), StoreError> {
    let waiting = store.read(now, |view| outbox::unsent(view, AT_ONCE))?;
    if waiting.is_empty() {
        return Ok(());
    }
    let folder = store.path().parent().unwrap_or(Path::new(".")).join("outbox");
    let failed = |source| StoreError::Folder { path: folder.display().to_string(), source };
    make_private(&folder)?;
    let from = store.read(now, |view| settings::get(view))?.name;
    let mut tried: Vec<(i64, Result<String, String>)> = Vec::new();
    for message in waiting {
        match written(&message, &from) {
            Ok(bytes) => {
                let name = format!("{:08}.eml", message.id);
                let mut file = private_file(&folder.join(&name))?;
                file.write_all(&bytes).and_then(|()| file.sync_all()).map_err(failed)?;
                tried.push((message.id, Ok(format!("outbox/{name}"))));
            }
            Err(reason) => {
                tracing::warn!(message = message.id, reason, "a message can't be sent");
                tried.push((message.id, Err(reason)));
            }
        }
    }
    let actor: Actor = store.read(now, |view| people::program(view, people::Program::Clock))?;
    store.write(actor, now, |tx| {
        tried.iter().try_for_each(|(id, tried)| match tried {
            Ok(file) => outbox::sent(tx, *id, file),
            Err(reason) => outbox::failed(tx, *id, reason),
        })
    })
}
