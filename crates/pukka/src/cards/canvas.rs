//! A drawing under way: its paper, texts that fit, bars.

use std::fmt::Write as _;

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use pukka_core::kernel::format::escaped;

use super::face::{self, Font};
use super::look::{Paint, Theme};
use super::{Signature, Style, Subject};

/// Room around what is drawn.
pub const MARGIN: f64 = 84.0;
/// Least size of type: 2.6 % of a wide card's height.
pub const LEAST: f64 = 28.0;

/// Where a text is held.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Held {
    Left,
    Middle,
    Right,
}

pub struct Canvas {
    style: Style,
    body: String,
}

impl Canvas {
    pub fn new(style: Style) -> Self {
        let mut canvas = Self { style, body: String::new() };
        let (width, height) = style.shape.size();
        let paper = canvas.paint().paper;
        match style.theme {
            Theme::Clear => canvas.put(&format!(
                "<rect x=\"24\" y=\"24\" width=\"{}\" height=\"{}\" rx=\"18\" fill=\"{paper}\" fill-opacity=\"0.86\"/>",
                width - 48.0,
                height - 48.0
            )),
            Theme::Light | Theme::Dark => canvas.rect(0.0, 0.0, width, height, paper),
        }
        canvas
    }

    /// A card with nothing behind its words but a panel of a height at the foot.
    pub fn lower_third(style: Style, tall: f64) -> Self {
        let mut canvas = Self { style, body: String::new() };
        let (width, height) = style.shape.size();
        let paper = canvas.paint().paper;
        if style.theme == Theme::Clear {
            canvas.put(&format!(
                "<rect x=\"{}\" y=\"{}\" width=\"{}\" height=\"{tall}\" rx=\"18\" fill=\"{paper}\" fill-opacity=\"0.86\"/>",
                MARGIN - 36.0,
                height - tall - MARGIN + 36.0,
                width - 2.0 * MARGIN + 72.0
            ));
        } else {
            canvas.rect(0.0, 0.0, width, height, paper);
        }
        canvas
    }

    pub const fn paint(&self) -> &'static Paint {
        self.style.theme.paint()
    }

    pub const fn width(&self) -> f64 {
        self.style.shape.size().0
    }

    pub const fn height(&self) -> f64 {
        self.style.shape.size().1
    }

    fn put(&mut self, shape: &str) {
        self.body.push_str(shape);
        self.body.push('\n');
    }

    pub fn rect(&mut self, x: f64, y: f64, width: f64, height: f64, fill: &str) {
        self.put(&format!("<rect x=\"{x:.1}\" y=\"{y:.1}\" width=\"{:.1}\" height=\"{height:.1}\" fill=\"{fill}\"/>", width.max(0.0)));
    }

    pub fn line(&mut self, y: f64, thick: f64, stroke: &str) {
        let width = self.width() - 2.0 * MARGIN;
        self.rect(MARGIN, y - thick / 2.0, width, thick, stroke);
    }

    /// A text on one line, made smaller (to the least) and then cut where it does not fit. Gives its width.
    pub fn text(&mut self, at: (f64, f64), held: Held, (font, size): (Font, f64), fill: &str, room: f64, text: &str) -> f64 {
        let natural = face::width(font, text, size);
        let size = if natural > room { (size * room / natural).max(LEAST) } else { size };
        let text = cut(font, size, room, text);
        let wide = face::width(font, &text, size);
        let mut x = match held {
            Held::Left => at.0,
            Held::Middle => at.0 - wide / 2.0,
            Held::Right => at.0 - wide,
        };
        for (face, piece) in face::pieces(font, &text) {
            let escaped = escaped(&piece);
            let css = face.css();
            self.put(&format!(
                "<text x=\"{x:.1}\" y=\"{:.1}\" {css} font-size=\"{size:.1}\" fill=\"{fill}\" xml:space=\"preserve\">{escaped}</text>",
                at.1
            ));
            x += face::width(face, &piece, size);
        }
        wide
    }

    /// Words in lines, as many as fit; gives the place under the last.
    pub fn lines(&mut self, at: (f64, f64), (font, size): (Font, f64), fill: &str, room: f64, most: usize, text: &str) -> f64 {
        let lines = broken(font, size, room, text);
        let mut y = at.1;
        for (n, line) in lines.iter().take(most).enumerate() {
            let more = n + 1 == most && lines.len() > most;
            let shown = if more { format!("{line} …") } else { line.clone() };
            self.text((at.0, y), Held::Left, (font, size), fill, room, &shown);
            y += size * 1.28;
        }
        y
    }

    /// A closed line, filled and drawn.
    pub fn path(&mut self, d: &str, fill: &str, thick: f64) {
        self.put(&format!("<path d=\"{d}\" fill=\"{fill}\" stroke=\"{fill}\" stroke-width=\"{thick}\" stroke-linejoin=\"round\"/>"));
    }

    /// The fill of a bar: solid, a slanted hatch, or dots.
    pub fn bar(&mut self, (x, y): (f64, f64), (width, height): (f64, f64), track: u32) {
        let fill = match track {
            0 => self.paint().proved,
            1 => "url(#clipping)",
            _ => "url(#dynamic)",
        };
        self.rect(x, y, width, height, fill);
    }

    /// The name of an amplifier at the top, what is said of it, and a rule; gives the place under it.
    pub fn heading(&mut self, subject: Subject, badge: Option<(&str, &str)>) -> f64 {
        self.title(&subject.sheet.name, &subject.sheet.subtitle, badge)
    }

    /// A title, what is said under it, and a rule; gives the place under it.
    pub fn title(&mut self, title: &str, under: &str, badge: Option<(&str, &str)>) -> f64 {
        let (ink, quiet) = (self.paint().ink, self.paint().quiet);
        let right = self.width() - MARGIN;
        let badge_width = badge.map_or(0.0, |(word, _)| face::width(Font::Bold, word, 46.0) + 64.0);
        let room = right - MARGIN - if badge_width > 0.0 { badge_width + 30.0 } else { 0.0 };
        self.text((MARGIN, MARGIN + 62.0), Held::Left, (Font::Bold, 66.0), ink, room, title);
        self.text((MARGIN, MARGIN + 116.0), Held::Left, (Font::Regular, 36.0), quiet, room, under);
        if let Some((word, fill)) = badge {
            self.put(&format!(
                "<rect x=\"{:.1}\" y=\"{:.1}\" width=\"{badge_width:.1}\" height=\"86\" rx=\"10\" fill=\"{fill}\"/>",
                right - badge_width,
                MARGIN
            ));
            let paper = self.paint().paper;
            self.text((right - badge_width / 2.0, MARGIN + 59.0), Held::Middle, (Font::Bold, 46.0), paper, badge_width, word);
        }
        self.line(MARGIN + 150.0, 4.0, ink);
        MARGIN + 152.0
    }

    /// What stands at the foot: that it is not the last word, and the disclosure.
    pub fn foot(&mut self, subject: Subject, more: &str) -> f64 {
        let mut lines = vec![(subject.sheet.view.disclosure.clone(), false), (more.to_owned(), false)];
        lines.extend(subject.standing().map(|standing| (standing, true)));
        self.foot_of(subject.by, &lines)
    }

    /// Lines at the foot, from the last up, beside the reviewer's name and mark; whether each is a doubt. Gives the place above them.
    pub fn foot_of(&mut self, by: &Signature, lines: &[(String, bool)]) -> f64 {
        let (quiet, doubt) = (self.paint().quiet, self.paint().doubt);
        let mut y = self.height() - MARGIN + 24.0;
        let (left, whole, mut room) = (MARGIN, self.width() - 2.0 * MARGIN, self.signature(by, y, LEAST));
        for (text, is_doubt) in lines.iter().filter(|(text, _)| !text.is_empty()) {
            let (font, fill) = if *is_doubt { (Font::Bold, doubt) } else { (Font::Regular, quiet) };
            self.text((left, y), Held::Left, (font, LEAST), fill, room, text);
            // The mark is as high as two lines, the name as one.
            (y, room) = (y - LEAST * 1.36, if by.mark.is_some() { whole - 2.4 * LEAST } else { whole });
        }
        y
    }

    /// The reviewer's name and mark, held at the right on a line of type; gives the room that is left beside them.
    pub fn signature(&mut self, by: &Signature, y: f64, size: f64) -> f64 {
        let (left, right) = (MARGIN, self.width() - MARGIN);
        let mut x = right;
        if let Some(mark) = &by.mark {
            let side = 2.0 * size;
            x -= side;
            self.put(&format!(
                "<image x=\"{x:.1}\" y=\"{:.1}\" width=\"{side:.1}\" height=\"{side:.1}\" href=\"data:image/png;base64,{}\"/>",
                y - 1.32 * size,
                STANDARD.encode(mark)
            ));
            x -= 0.5 * size;
        }
        if !by.name.is_empty() {
            let ink = self.paint().ink;
            x -= self.text((x, y), Held::Right, (Font::Bold, size), ink, (right - left) * 0.4, &by.name);
            x -= size;
        }
        x - left
    }

    /// The whole drawing.
    pub fn svg(self, alt: &str) -> String {
        let (width, height) = self.style.shape.size();
        let scale = f64::from(self.style.lines) / width.min(height);
        let paint = self.paint();
        let alt = escaped(alt);
        let mut svg = String::new();
        // Writing to a string cannot fail.
        let _ = writeln!(
            svg,
            "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{:.0}\" height=\"{:.0}\" viewBox=\"0 0 {width:.0} {height:.0}\" role=\"img\">\n<title>{alt}</title>\n<defs>\n<pattern id=\"clipping\" width=\"22\" height=\"22\" patternUnits=\"userSpaceOnUse\" patternTransform=\"rotate(25)\"><rect width=\"22\" height=\"22\" fill=\"{}\"/><rect width=\"11\" height=\"22\" fill=\"{}\"/></pattern>\n<pattern id=\"dynamic\" width=\"20\" height=\"20\" patternUnits=\"userSpaceOnUse\"><rect width=\"20\" height=\"20\" fill=\"{}\"/><circle cx=\"10\" cy=\"10\" r=\"5.5\" fill=\"{}\"/></pattern>\n</defs>",
            width * scale,
            height * scale,
            paint.hatch_light,
            paint.hatch_dark,
            paint.hair,
            paint.ink
        );
        svg.push_str(&self.body);
        svg.push_str("</svg>\n");
        svg
    }
}

/// A text as far as it fits.
fn cut(font: Font, size: f64, room: f64, text: &str) -> String {
    if face::width(font, text, size) <= room + 0.5 {
        return text.to_owned();
    }
    let mut kept = String::new();
    for c in text.chars() {
        if face::width(font, &format!("{kept}{c}…"), size) > room {
            break;
        }
        kept.push(c);
    }
    format!("{}…", kept.trim_end())
}

fn broken(font: Font, size: f64, room: f64, text: &str) -> Vec<String> {
    let mut lines: Vec<String> = Vec::new();
    for word in text.split(' ').filter(|word| !word.is_empty()) {
        match lines.last_mut() {
            Some(line) if face::width(font, &format!("{line} {word}"), size) <= room => {
                line.push(' ');
                line.push_str(word);
            }
            _ => lines.push(word.to_owned()),
        }
    }
    lines
}
