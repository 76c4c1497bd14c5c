//! Lines of text from a peer that may send anything: long ones are cut off, and no more is kept
//! than one.

use tokio::io::{AsyncBufRead, AsyncBufReadExt};

/// Longest line, bytes.
pub const LONGEST: usize = 120;
/// So many bytes without the end of a line are no lines.
const ENDLESS: usize = 64 * 1024;

/// What came.
#[derive(Debug, PartialEq, Eq)]
pub enum Came {
    /// A line, without its end.
    Line(Vec<u8>),
    /// One that is too long; it was let go.
    TooLong,
    /// No line ends.
    Endless,
    /// The peer closed.
    Closed,
}

/// The next line.
///
/// # Errors
/// Those of the peer's line.
pub async fn next(from: &mut (impl AsyncBufRead + Unpin)) -> std::io::Result<Came> {
    let (mut line, mut length) = (Vec::new(), 0);
    loop {
        let bytes = from.fill_buf().await?;
        if bytes.is_empty() {
            return Ok(Came::Closed);
        }
        let end = bytes.iter().position(|&b| b == b'\n');
        let part = end.unwrap_or(bytes.len());
        length += part;
        if line.len() + part <= LONGEST + 1 {
            line.extend_from_slice(&bytes[..part]);
        }
        from.consume(part + usize::from(end.is_some()));
        if end.is_some() {
            if line.last() == Some(&b'\r') {
                line.pop();
                length -= 1;
            }
            return Ok(if length > LONGEST {
                Came::TooLong
            } else {
                Came::Line(line)
            });
        }
        if length > ENDLESS {
            return Ok(Came::Endless);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use tokio::io::BufReader;

    async fn all(bytes: &[u8], capacity: usize) -> Vec<Came> {
        let mut from = BufReader::with_capacity(capacity, bytes);
        let mut found = Vec::new();
        loop {
            let came = next(&mut from).await.unwrap();
            let last = matches!(came, Came::Closed | Came::Endless);
            found.push(came);
            if last {
                return found;
            }
        }
    }

    #[tokio::test]
    async fn lines_come_whole_however_they_were_cut_up() {
        let long = "x".repeat(LONGEST);
        let text = format!("1 g stable\r\n\n{long}\n{long}\r\n{long}y\nlast\nno end");
        for capacity in [1, 7, 8192] {
            let line = |text: &str| Came::Line(text.as_bytes().to_vec());
            let wanted = [
                line("1 g stable"),
                line(""),
                line(&long),
                line(&long),
                Came::TooLong,
                line("last"),
                Came::Closed,
            ];
            assert_eq!(all(text.as_bytes(), capacity).await, wanted, "{capacity}");
        }
        assert_eq!(all(&vec![b'x'; 10 * ENDLESS], 4096).await, [Came::Endless]);
    }
}
