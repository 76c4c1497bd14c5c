import { sha256 } from "@noble/hashes/sha2.js";
import {
  bytesToHex,
  concatBytes,
  hexToBytes,
  utf8ToBytes,
} from "@noble/hashes/utils.js";

/** What a secret number and a key come to: SHA-256 over the bytes of the number, followed by the key as text. Worked out here and
 * not by the server, so that who checks the seal need not believe it. */
export const sealOf = (nonce: string, key: string) =>
  bytesToHex(sha256(concatBytes(hexToBytes(nonce), utf8ToBytes(key))));

/** The same with tools that any computer has. */
export const byHand = (nonce: string, key: string) =>
  `(printf '${nonce.replace(/../g, (two) => `\\x${two}`)}'; printf '%s\\n' ${key
    .trimEnd()
    .split("\n")
    .map((line) => `'${line.replaceAll("'", "'\\''")}'`)
    .join(" ")}) | sha256sum`;
