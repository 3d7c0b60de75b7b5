"""What a name in a log usually means; common practice of consoles and loggers, not a standard."""

from __future__ import annotations

import re
from enum import StrEnum
from functools import lru_cache


class Meaning(StrEnum):
    """What a part of a line is; the values are what a recipe file says."""

    __hash__ = str.__hash__  # enum's own looks a name up for every key

    SEQ = "seq"
    RSSI = "rssi_dbm"
    SNR = "snr_db"
    NOISE = "noise_dbm"
    RIG = "rig"
    SOURCE = "source"
    RECEIVER = "receiver"
    STOP = "stop"
    CONDITION = "condition"
    DIRECTION = "direction"
    HOPS = "hops"
    TIME = "time"
    DATE = "date"
    UPTIME = "uptime"
    LAT = "lat"
    LON = "lon"
    HDOP = "hdop"
    SATELLITES = "satellites"
    HEARD = "heard"
    ACK = "ack"
    CRC = "crc"
    DISTANCE = "distance_m"
    PAYLOAD = "payload"
    BATTERY = "battery"
    TEMPERATURE = "temperature"


_NAMES: dict[Meaning, str] = {
    Meaning.SEQ: "seq sequence seqno seqnr seqnum counter count cnt ctr fcnt framecounter frame frameno framenr frameid fno packet pkt paket packetno pktno pktid packetid packetcounter pkts msg msgid message messageid n nr num number idx index beacon beaconno # no ping pong hello uplink zaehler zähler lfdnr sequencenumber framecount packetcount nummer laufnr sqn",
    Meaning.RSSI: "rssi rss signal sig signalstrength strength level lvl prx rxpower rxlevel pegel empfang dbm rssidbm signaldbm rssival lastrssi packetrssi pktrssi rxrssi rssipkt feldstärke feldstaerke rxdbm power pwr rssilevel sigstr rssiraw rssireg",
    Meaning.SNR: "snr s/n sn sinr esn0 cn snrdb lastsnr packetsnr pktsnr rxsnr signaltonoise signalnoise",
    Meaning.NOISE: "noise noisefloor nf floor background rauschen n0 noisedbm bgnoise ambient noiserssi rssinoise channelnoise noiselevel rauschpegel nfloor",
    Meaning.RIG: "rig board variant candidate boardname rigname module brd",
    Meaning.SOURCE: "source src from sender node nodeid dev device devid deviceid devaddr deveui addr address mac transmitter origin srcaddr fromaddr peer nodeaddr orig sensor absender knoten name",
    Meaning.RECEIVER: "receiver gateway gw gatewayid gwid station base rxid anchor listener heardby sink receivername basestation ear gweui antenna rxname rcvr",
    Meaning.STOP: "stop place location loc point site spot waypoint wp position where marker ort punkt stelle halt stopno stopname messpunkt pos standort spotno",
    Meaning.CONDITION: "condition carry carried carrying pose orientation how cond held haltung zustand trage",
    Meaning.DIRECTION: "direction dir leg way richtung",
    Meaning.HOPS: "hops hop hopcount relay relayed relays hopcnt nhops",
    Meaning.TIME: "time timestamp ts datetime utc clock rtc epoch unixtime unix when zeit uhrzeit rxtime receivedat timeutc at stamp zeitstempel localtime gpstime t",
    Meaning.DATE: "date datum day tag",
    Meaning.UPTIME: "uptime millis tick ticks up ms tickms timems uptimems sinceboot timeus micros us",
    Meaning.LAT: "lat latitude gpslat breite",
    Meaning.LON: "lon lng long longitude gpslon länge laenge",
    Meaning.HDOP: "hdop dilution",
    Meaning.SATELLITES: "satellites sats sat nsat nsats numsats numsat satcount satellitesused satelliten",
    Meaning.HEARD: "heard received rxok ok delivered status result got",
    Meaning.ACK: "ack acked acknowledged reply replied answered answer response acks",
    Meaning.CRC: "crc crcok crcerr crcerror fcs integrity",
    Meaning.DISTANCE: "distance dist metres meters distancem entfernung range abstand",
    Meaning.PAYLOAD: "payload data hex raw bytes body pl frmpayload content text buf buffer datahex nutzdaten payloadhex payloadraw msgdata",
    Meaning.BATTERY: "bat batt battery vbat vcc voltage batterie v vdd batmv batv vbatt supply",
    Meaning.TEMPERATURE: "temperature temp tmp temperatur tempc",
}  # fmt: skip
_MEANINGS = {word: meaning for meaning, words in _NAMES.items() for word in words.split()}
_OWN = frozenset(
    ["id", "name", "eui", "nr", "no", "number", "key", "label"]
)  # whose they are says what they are
_UNIT = re.compile(r"[\[(](?P<unit>[^\])]{1,12})[\])]")
_TAIL = re.compile(r"[_ .-]?(dbm|db|ms|us|m|deg|v|mv|c|s)$")
_TAIL_UNITS = {"dbm": "dBm", "db": "dB", "ms": "ms", "us": "us", "m": "m", "s": "s"}


def unit_in(name: str) -> str:
    """Return the unit a column's head bears, as in “RSSI (dBm)” or `rssi_dbm`."""
    found = _UNIT.search(name)
    if found:
        return _TAIL_UNITS.get(found["unit"].lower(), found["unit"])
    tail = re.search(r"[_ -](dbm|db|ms|us|m|s|pct|percent)$", name.lower())
    if not tail:
        return ""
    return "%" if tail[1] in ("pct", "percent") else _TAIL_UNITS[tail[1]]


def meaning_of(name: str) -> Meaning | None:
    """Return what a name usually means; None for one nobody knows.

    A path like `rx.0.rssi` is told by its end, `noise_floor_dbm` by all of it, “Signal strength
    (dBm)” without its unit.
    """
    bare = re.sub(r"\[\d*\]", "", _UNIT.sub("", name.lower())).strip()
    *above, last = [part for part in re.split(r"[./]", bare) if part] or [bare]
    if above and last in _OWN:  # gateways[].id is a gateway's
        return meaning_of(above[-1].removesuffix("s"))
    for candidate in (bare, last):
        joined = re.sub(r"[\s_\-.:/]+", "", candidate)
        for text in (joined, re.sub(r"[\s_\-.:/]+", "", _TAIL.sub("", candidate))):
            if text in _MEANINGS:
                return _MEANINGS[text]
    words = [word for word in re.split(r"[\s_\-.:/]+", bare) if word]
    if words and words[-1].isdigit():  # a name like node-2 is somebody's, not a kind's
        return None
    for word in reversed(words):
        if len(word) > 1 and word in _MEANINGS:
            return _MEANINGS[word]
    return None


def _words(text: str) -> frozenset[str]:
    return frozenset(text.split())


# what switches say, like heard=1, crc=fail, ack=none
YES = _words("1 true yes y ok heard rx received good ack pass on")
NO = _words("0 false no n lost missed fail failed bad nack error none off timeout")
SENT = _words("tx ping sent send sending transmit transmitted transmitting gesendet sende txdone")
REPLIED = _words("reply replied pong ack acked answer answered response acknowledged antwort")
LOST = _words(
    "lost miss missed timeout timedout noreply noack failed fail missing verloren dropped"
)
HEARD = _words("rx received recv receive got heard empfangen rxdone")
VERBS = SENT | REPLIED | LOST | HEARD
DAMAGED = _words("crc checksum fcs")
WRONG = _words("error err bad fail failed mismatch invalid wrong corrupt falsch")


class Act(StrEnum):
    """What a line tells of: a frame sent, heard, lost, answered, or damaged in the air."""

    HEARD = "heard"
    SENT = "sent"
    REPLY = "reply"
    LOST = "lost"
    DAMAGED = "damaged"


@lru_cache(maxsize=4096)
def act_of(words: frozenset[str]) -> Act:
    """Return what the words of a line tell of; a line with figures alone is a frame heard."""
    if words & DAMAGED and words & WRONG:
        return Act.DAMAGED
    if words & LOST:
        return Act.LOST
    if words & REPLIED and not (words & {"no"}):
        return Act.REPLY
    if words & {"no"} and words & REPLIED:
        return Act.LOST
    if words & SENT and not words & HEARD:
        return Act.SENT
    return Act.HEARD
