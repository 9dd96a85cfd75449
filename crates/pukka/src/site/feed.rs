//! The Atom feed. Ref: RFC 4287.

use std::fmt::Write as _;

use pukka_core::kernel::format::escaped;

use super::{Entry, SiteWanted};

/// So many of the newest.
const MOST: usize = 50;
/// Moment of a site on which nothing was run.
const NEVER: &str = "1970-01-01T00:00:00Z";

/// The newest amplifiers, the newest first.
pub fn atom(wanted: &SiteWanted, url: &str, entries: &[Entry]) -> String {
    let root = escaped(url.trim_end_matches('/'));
    let moment = |entry: &Entry| entry.updated.map_or_else(|| NEVER.to_owned(), |at| at.strftime("%Y-%m-%dT%H:%M:%SZ").to_string());
    let updated = entries.first().map_or_else(|| NEVER.to_owned(), moment);
    let name = escaped(&wanted.name);
    let mut feed = format!(
        "<?xml version=\"1.0\" encoding=\"utf-8\"?>\n<feed xmlns=\"http://www.w3.org/2005/Atom\">\n<title>{name}</title>\n<id>{root}/</id>\n\
         <link rel=\"self\" href=\"{root}/feed.xml\"/>\n<link href=\"{root}/\"/>\n<updated>{updated}</updated>\n<author><name>{name}</name></author>\n"
    );
    if let Some(licence) = &wanted.licence {
        // Writing to a string cannot fail.
        let _ = writeln!(feed, "<rights>{}</rights>", escaped(licence));
    }
    for entry in entries.iter().take(MOST) {
        let standing = entry.standing.as_ref().map(|standing| format!("{standing} ")).unwrap_or_default();
        let _ = writeln!(
            feed,
            "<entry>\n<title>{}: {}</title>\n<id>{root}/{slug}/</id>\n<link href=\"{root}/{slug}/index.html\"/>\n<updated>{}</updated>\n<summary>{}</summary>\n</entry>",
            escaped(&entry.name),
            escaped(&entry.overall_word.to_lowercase()),
            moment(entry),
            escaped(&format!("{standing}{} {}", entry.says, entry.disclosure)),
            slug = entry.slug,
        );
    }
    feed.push_str("</feed>\n");
    feed
}
