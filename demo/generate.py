#!/usr/bin/env python3
"""Writes the demo data: the papers of the Marrow Point light station, all of them made up.

    python3 demo/generate.py

The result is the same each time. Rule sets are written by hand and are not touched.
"""

import random
from pathlib import Path

HERE = Path(__file__).parent
KEEPERS = ["Hale", "Orrin", "Tamsin Vey", "old Pask"]
BOATS = ["Petrel", "Dunlin", "Grey Wether"]
WINDS = ["N", "NNE", "NE", "E", "SE", "S", "SSW", "SW", "WSW", "W", "NW"]
SEAS = ["smooth", "slight", "moderate", "rough", "very rough", "confused"]
NB, THIN, ZWSP, SHY = "\u00a0", "\u2009", "\u200b", "\u00ad"


# ---------------------------------------------------------------- the logbook: typed, then scanned

def log_entry(rng, day):
    wind, sea = rng.choice(WINDS), rng.choice(SEAS)
    force, mercury = rng.randint(1, 9), rng.randint(978, 1034)
    keeper, boat = rng.choice(KEEPERS), rng.choice(BOATS)
    hour, minute = rng.randint(0, 23), rng.choice([0, 5, 10, 15, 20, 30, 40, 45, 50])
    count, depth = rng.randint(2, 40), rng.choice(["3.5", "4.0", "6.5", "11", "12.5"])
    lines = [
        f"Wind {wind} force {force}, sea {sea}. Glass {mercury} and {rng.choice(['rising', 'falling', 'steady'])}.",
        f"Lamp lit at {16 + day % 3}:{minute:02d}, put out at sunrise.",
        f"{keeper} took the {rng.choice(['first', 'middle', 'morning'])} watch.",
    ]
    more = [
        [f"Fog from {hour:02d}:{minute:02d}. Horn sounded every 90 seconds until", "the far buoy could be seen again."],
        [f"After the gale, {count} gulls dead below the gallery. Two panes", "of the lantern cracked, none through."],
        [f"Relief boat {boat} off the landing at {hour:02d}:{minute:02d}.", f"Too much swell in the gut; she lay off in {depth}{NB}m and", "went home with our letters undelivered."],
        [f"Relief boat {boat} came in. Landed {count}{THIN}cases of oil, flour,", "tea, and a box of wicks we did not ask for."],
        [f"Cleaned the lens. {keeper} counts {count} prisms chipped along", "the lower edge, as last year and the year before."],
        [f"A {rng.choice(['barque', 'schooner', 'steam trawler'])} passed {count} cables off, close-hauled, and did", "not answer our signal."],
        ["Clockwork of the lamp ran slow. Took down the weight,", f"oiled the {rng.choice(['third', 'second', 'great'])} wheel, and lost {count} minutes by it."],
        [f"Painted the {rng.choice(['store', 'oil house', 'north wall', 'handrail'])}. Paint for {count}{NB}square feet left over."],
        [f"{keeper} unwell. Others took his hours."],
        [f"Cistern at {depth}{NB}feet. Boiled all water as ordered."],
        ["Seals on the outer rock, as many as in any year since 1912."],
        ["Nothing to report, and glad of it."],
        [f"Heard the {rng.choice(['radio', 'wireless'])} of the {boat} faintly at {hour:02d}:{minute:02d}. Could not", "make out the words, only that she was in no hurry."],
        ["Rats in the oil house again. The cat has been spoken to."],
    ]
    for part in rng.sample(more, rng.randint(1, 3)):
        lines += part
    return lines


def ordinal(day):
    return "th" if 11 <= day <= 13 else {1: "st", 2: "nd", 3: "rd"}.get(day % 10, "th")


def logbook(rng, month, days, year=1936):
    """A page has 36 numbered lines, the number at one edge or both, and its heading over a form feed."""
    body = []
    for day in range(1, days + 1):
        body += [f"{day}{ordinal(day)} {month}"] + log_entry(rng, day) + [""]
    out, page = [], 0
    for start in range(0, len(body), 36):
        page += 1
        feed = "\f" if page > 1 else ""
        out.append(f"{feed}MARROW POINT LIGHT STATION{' ' * 12}KEEPERS' LOG{' ' * 12}page {page}")
        out.append("")
        for number, line in enumerate(body[start:start + 36], start=1):
            tail = "" if rng.random() < 0.3 else f"{number:>{max(3, 68 - len(line))}}"
            blanks = " " * rng.choice([0, 0, 0, 1, 2, 5])
            text = line.replace(". ", ".  ") if rng.random() < 0.15 else line
            out.append(f"{number:>4}  {text}{tail}{blanks}".rstrip(" ") + blanks if line else f"{number:>4}{blanks}")
        out.append("")
    return "\n".join(out) + "\n"


# ---------------------------------------------------------------- the radio watch: transcribed by ear

FILLERS = ["um", "uh", "er", "Um", "Uh"]


def with_fillers(rng, text):
    """Puts in fillers as a transcript has them: between commas, between blanks, at the start of a sentence."""
    words = text.split(" ")
    out = []
    for index, word in enumerate(words):
        if index and rng.random() < 0.07:
            filler = rng.choice(FILLERS[:3])
            if out[-1].endswith(","):
                out.append(filler + ",")
            elif rng.random() < 0.5 and out[-1][-1].isalnum():
                out[-1] += ","
                out.append(filler + ",")
            else:
                out.append(filler)
        out.append(word)
    if rng.random() < 0.2:
        out[0] = rng.choice(FILLERS[3:]) + ", " + out[0][0].lower() + out[0][1:] if not out[0][0].isupper() or out[0] in ("The", "We", "It") else "Um, " + out[0]
    return " ".join(out)


def calls(rng):
    boat = rng.choice(BOATS)
    hour, minute = rng.randint(0, 23), rng.choice(["05", "10", "15", "20", "30", "40", "45"])
    wind, sea, force = rng.choice(WINDS), rng.choice(SEAS), rng.randint(2, 9)
    count, miles = rng.randint(2, 30), rng.randint(2, 14)
    return rng.choice([
        [f"Marrow Point, Marrow Point, this is the relief boat {boat}. How is the landing this morning? Over.",
         f"{boat}, Marrow Point. The landing is no good. There is a {sea} sea in the gut and the lower steps are under water. Over.",
         f"Understood. We will lie off until {hour:02d}:{minute} and ask again. {boat} out."],
        [f"All stations, this is Marrow Point. Wind {wind}, force {force}. Sea {sea}. The light is burning as it should. Out."],
        [f"Marrow Point, this is {boat}. We don't see your light. We see the fog, and a good deal of it. Over.",
         f"{boat}, the light is lit. It was lit at {hour:02d}:{minute} and we are standing beside it. Keep to the east of the buoy. Over.",
         "We can't see the buoy either. We hear the horn. Is that you? Over.",
         "That is us. When it sounds as if we were angry with you, you are close enough. Over."],
        [f"Marrow Point, {boat}. I have {count} cases for you, and flour, and the post. There is a parcel for Tamsin Vey that hums. Over.",
         "Say again about the parcel? Over.",
         "It hums. It does not hum when you hold it. Over.",
         "Put it down gently, then. Marrow Point out."],
        [f"This is Marrow Point with the {hour:02d}:{minute} observation. Glass {rng.randint(980, 1030)}, visibility {miles} miles, drizzle. The gulls are walking. Out."],
        [f"{boat}, Marrow Point. You are {miles} miles off and the tide has turned. Don't come by the north side. The drumlin sand has moved again. Over.",
         f"North side it isn't. Thank you, Marrow Point. How far has it moved? Over.",
         f"About {count} yards to the west since the spring. Old Pask walked it. Over."],
        ["Marrow Point, this is the harbour office. We are missing your return for the oil. Over.",
         "Harbour office, you had it in the bag on the Dunlin. Over.",
         "We had the bag. The bag was wet. Over.",
         f"Then we will send it again. {count} cases in, {max(1, count - 2)} cases out, and the cat weighs what she weighs. Over.",
         "The cat is not on the form. Harbour office out."],
        [f"Marrow Point, {boat}. Is that a signal on your gallery, or is it washing? Over.",
         "It is washing. It dries best at force five. Over."],
        [f"{boat}, Marrow Point. I make it {hour:02d}:{minute}. What do you make it? Over.",
         "I make it four minutes later, and I have had this watch from my father. Over.",
         "Then we will split the two minutes. Out."],
    ])


def wrapped(text, width):
    lines, line = [], ""
    for word in text.split(" "):
        if line and len(line) + 1 + len(word) > width:
            lines.append(line)
            line = word
        else:
            line = f"{line} {word}" if line else word
    return lines + [line]


def radio(rng, exchanges):
    out, seconds = [], rng.randint(5, 40)
    for _ in range(exchanges):
        for call in calls(rng):
            hours, rest = divmod(seconds, 3600)
            minutes, secs = divmod(rest, 60)
            code = f"{hours}:{minutes:02d}:{secs:02d}" if hours else f"{minutes:02d}:{secs:02d}"
            code = rng.choice([code, code, f"[{code}]", f" {code}"])
            text = with_fillers(rng, call)
            if rng.random() < 0.1:
                at = text.find(" ", len(text) // 2)
                text = text[:at] + ZWSP + text[at:] if at > 0 else text
            out.append(code)
            out += wrapped(text, 42)
            seconds += rng.randint(3, 40)
        seconds += rng.randint(40, 400)
    return "\n".join(out) + "\n"


# ---------------------------------------------------------------- notices: typed on whatever machine was free

QUOTES = [("“", "”"), ("„", "“"), ("«", "»"), ("‟", "”"), ('"', '"')]


def notice(rng, number):
    def q(text):
        first, last = QUOTES[(number + rng.randint(0, 1)) % len(QUOTES)]
        return f"{first}{text}{last}"

    boat = rng.choice(BOATS)
    day, count = rng.randint(2, 27), rng.randint(3, 20)
    paragraphs = rng.choice([
        [f"The relief boat {q(boat)} will come on the {day}th, weather allowing. If the black ball is hoisted on the gallery, she will not come, and nobody is to wave at her as if she should.",
         f"Letters are to be in the bag the evening before. {q('The evening before')} means before the lamp is lit. Letters handed down the ladder at the last moment have been getting wet, and the wet ones have been getting read."],
        [f"Visitors to the station sign the book. They do not write {q('lovely')} under remarks. Remarks are for the state of the ladder, the landing and the railing.",
         f"The lamp room is closed to visitors from sunset to sunrise. The lighthouse keeper on watch may not be asked {q('does it ever go out')}. It went out once, in 1912, for {count} minutes, and he was not there."],
        [f"The horn will be tested on the {day}th at 10:30. Those of a nervous disposition, and the cat, are advised to be in the oil house with the door shut.",
         f"One long blast means {q('fog')}. Two long blasts mean {q('test')}. Three mean that somebody has leant on it, and there will be a conversation."],
        [f"Stores are counted on the last day of the month by the book headed {q('Stores')}, not by the book headed {q('Stores (new)')}, which was begun in error and has been continued out of spite.",
         f"Whoever has borrowed the {count}-inch spanner is asked to think of the winding gear, which holds up a weight, which is above the bed of the person who wrote this notice."],
        [f"The path to the north side is shut. The sign that says {q('shut')} has blown down the path to the north side.",
         f"Until it is found, {q('shut')} is to be understood wherever the path begins to look interesting."],
    ])
    lines = [f"MARROW POINT LIGHT STATION{' ' * rng.choice([0, 3])}", f"Notice {number}", ""]
    for paragraph in paragraphs:
        lines += hyphenated(rng, paragraph, 58) + [""]
    lines += [rng.choice(["T. Vey, for the keepers", "Orrin, Principal Keeper", "Hale, in charge while it lasts"]), ""]
    return lines


SPLITS = {"lighthouse": "light-house", "weather": "wea-ther", "conversation": "conver-sation", "disposition": "dispo-sition",
          "understood": "under-stood", "interesting": "inter-esting", "borrowed": "bor-rowed", "begun": "be-gun",
          "continued": "con-tinued", "somebody": "some-body", "evening": "eve-ning", "moment": "mo-ment",
          "visitors": "vis-itors", "Visitors": "Vis-itors", "remarks": "re-marks", "station": "sta-tion",
          "railing": "rail-ing", "landing": "land-ing", "advised": "ad-vised", "winding": "wind-ing"}


def hyphenated(rng, text, width):
    """Breaks lines at the width, and words at the line end where the typist would have."""
    lines, line = [], ""
    for word in text.split(" "):
        if line and len(line) + 1 + len(word) > width:
            bare = word.strip(".,;")
            if bare in SPLITS and len(line) + 4 < width:
                first, rest = SPLITS[bare].split("-")
                mark = rng.choice(["-", "-", "\u2010", SHY])
                lines.append(f"{line} {first}{mark}")
                line = word.replace(bare, rest)
                continue
            lines.append(line + " " * rng.choice([0, 0, 0, 1]))
            line = word
        else:
            line = f"{line} {word}" if line else word
    return lines + [line]


def notices(rng, first, count):
    lines = []
    for number in range(first, first + count):
        lines += notice(rng, number)
    return "\r\n".join(lines) + "\r\n"


# ---------------------------------------------------------------- the names of scans

def scan_names(rng):
    """Fifty names as scanners, people and mail programs left them. `washout demo` makes an empty scan of each."""
    names = [
        "Marrow Point - lamp_room_[draft]_(scan 12) FINAL-converted copy.TIFF",
        "Marrow Point - lamp_room_(scan 13) FINAL.TIFF",
        "[draft].TIFF",                                     # nothing is left of it
        "Cistern plan (2).tif", "Cistern plan.tif",         # taken
        "Fog horn_[a].png", "Fog horn_[b].png",             # two want one name
        f"Gallery{NB}rail{ZWSP} 1920x1080.jpg",
        "Tide%20table%201936.pdf",
        "Stores 12:30?.txt",
        "Cafe\u0301 of the Dunlin.jpeg",
        ".scan_settings_[old].ini",
        "letters 1936.tar.gz", "letters_[undelivered]_1937.tar.gz",
    ]
    things = ["lamp room", "clockwork", "oil house", "north wall", "lens", "landing", "store", "radio room"]
    number = 1
    while len(names) < 38:
        number += rng.randint(1, 9)
        thing = rng.choice(things).replace(" ", rng.choice([" ", "_", "__"]))
        noise = rng.choice(["", " FINAL", "_edited", " copy", " - Copy", "_[site 4]", " [reduced]"])
        names.append(f"Marrow_Point - {thing}_(scan {number}){noise}.{rng.choice(['TIFF', 'tif', 'jpg'])}")
    while len(names) < 50:
        day, month = rng.randint(1, 28), rng.randint(1, 12)
        boat = rng.choice(BOATS).replace(" ", "_")
        name = f"relief_boats/{boat}_relief boat {day:02d}.{month:02d}.1936{rng.choice(['', '_[typed]', ' FINAL'])}.txt"
        if name not in names:
            names.append(name)
    return "\n".join(names) + "\n"


# ---------------------------------------------------------------- the stores ledger: a table that many hands have kept

STORES = [("Lamp oil", "gal"), ("Wicks, round", "doz"), ("Flour", "lb"), ("Tea", "lb"), ("Rope 3/4\"", "fathom"),
          ("White lead", "lb"), ("Window putty", "lb"), ("Coal", "cwt"), ("Soap, yellow", "bar"), ("Biscuit", "tin")]
SIGNERS = ["Mr. Josiah B. Hale", "Mr Josiah Hale", "Miss Tamsin Vey", "Tamsin Vey, Asst.", "Capt. E. Orrin",
           "E. Orrin ", "Edwin R. Orrin, Jr.", "old Pask", "Old Pask", "Mr. Josiah\u00a0Hale", "Tamsin\u200b Vey"]
REMARKS = ["", "", "two tins dented", "short by {n}; asked for {code}", "ref. {code}", "as ordered, {code} *",
           "see {code} and the letter of the 4th", "said \"good enough\" by the mate †", "wet\ndried in the oil house",
           "for the north store, {code}", "?? no paper with it", "paid"]


def as_cell(text):
    return '"' + text.replace('"', '""') + '"' if any(mark in text for mark in ',"\n') else text


def ledger(rng, count):
    """Names of things and people as they were written down: no two hands alike."""
    rows = ["Date,Item,Quantity,Unit,Keeper,Boat,Remarks"]
    for number in range(count):
        item, unit = rng.choice(STORES)
        item = rng.choice([item] * 6 + [item + " ", item.replace(" ", NB), item.lower(), ZWSP + item])
        code = f"MP-{rng.randint(100, 999):04d}"
        remark = rng.choice(REMARKS).format(n=rng.randint(2, 9), code=code)
        cells = [f"1936-{1 + number // 24:02d}-{1 + number % 24:02d}", item, str(rng.choice([1, 2, 3, 6, 12, 24, 40])),
                 unit, rng.choice(SIGNERS), rng.choice(BOATS), remark]
        rows.append(",".join(as_cell(cell) for cell in cells))
    return "".join(row + "\r\n" for row in rows)


def write(name, text):
    path = HERE / name
    path.parent.mkdir(exist_ok=True)
    path.write_bytes(text.encode("utf-8"))
    print(f"{name}: {text.count(chr(10))} lines")


def main():
    rng = random.Random(1936)
    for number, (month, days) in enumerate([("January", 31), ("February", 29), ("March", 31)], start=1):
        write(f"logbook/1936-{number:02d}.txt", logbook(rng, month, days))
    for number in range(1, 5):
        write(f"radio/watch-{number}.txt", radio(rng, 55))
    for number in range(1, 4):
        write(f"notices/board-{number}.txt", notices(rng, 1 + 12 * (number - 1), 12))
    write("scans.txt", scan_names(rng))
    write("stores/ledger.csv", ledger(rng, 96))


if __name__ == "__main__":
    main()
