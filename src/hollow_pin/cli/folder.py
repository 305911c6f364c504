"""`hollow-pin backup`, `restore`, `check` and `pair`: the data folder itself."""

from __future__ import annotations

import argparse
import os
from pathlib import Path

from hollow_pin.bench.copies import back_up, mend_folder, restore, verify_folder
from hollow_pin.bench.pairing import new_code
from hollow_pin.cli.common import now, takes_data
from hollow_pin.cli.errors import Unusable
from hollow_pin.store.database import FILE_NAME, Database, DataError


def arguments_backup(parser: argparse.ArgumentParser) -> None:
    parser.description = (
        "Copy the whole bench to one file and check the copy. Its path is the last line. A server\n"
        "makes one every day by itself and keeps those of 7 days, 4 weeks and 12 months.\n\n"
        "  hollow-pin backup /media/stick"
    )
    parser.add_argument(
        "out", type=Path, nargs="?", metavar="OUT_DIR", help="default: backups in the data folder"
    )
    takes_data(parser)


def arguments_restore(parser: argparse.ArgumentParser) -> None:
    parser.description = (
        "Put a file that `backup` wrote back as the bench. What is there now is put aside, not\n"
        "deleted. Refused while a server runs on the folder.\n\n"
        "  hollow-pin restore /media/stick/hollow-pin-20260301T100000Z.db"
    )
    parser.add_argument("file", type=Path, metavar="FILE")
    takes_data(parser)


def arguments_check(parser: argparse.ArgumentParser) -> None:
    parser.description = (
        "Check the database: its pages, what refers to what, takes that nobody ended, readings. Exit\n"
        "status 0 and one line where it is sound, 1 and what is wrong where it is not. To repair,\n"
        "end the server first.\n\n"
        "  hollow-pin check --repair     save what can be read of a damaged one into a new one, end\n"
        "                                takes that nobody ended, measure anew"
    )
    parser.add_argument("--repair", action="store_true")
    takes_data(parser)


def arguments_pair(parser: argparse.ArgumentParser) -> None:
    parser.description = (
        "Print a code that lets one other machine speak to this bench, once, within ten minutes.\n\n"
        "  bench    everything, live takes included\n"
        "  desk     everything but takes and function checks\n"
        "  viewer   looks, and changes nothing"
    )
    parser.add_argument("--role", choices=("bench", "desk", "viewer"), default="desk")
    takes_data(parser)


def _existing(folder: Path) -> Database:
    """A bench that is there already."""
    if not (folder / FILE_NAME).exists() and not folder.is_file():
        raise Unusable(f"there is no bench in {folder}. Name its folder with --data.")
    return Database(folder)


def run_backup(args: argparse.Namespace) -> int:
    os.umask(0o077)
    print(back_up(_existing(args.data), now(), args.out))
    return 0


def run_restore(args: argparse.Namespace) -> int:
    os.umask(0o077)
    aside = restore(args.file, args.data, now())
    if aside is not None:
        print(f"What was there is in {aside}.")
    print(f"{args.file} is the bench in {args.data} now.")
    return 0


def run_check(args: argparse.Namespace) -> int:
    if args.repair:
        os.umask(0o077)
        return _repair(args.data)
    try:
        if not (args.data / FILE_NAME).exists():
            _existing(args.data)
        checked = verify_folder(args.data)
    except (DataError, Unusable) as wrong:
        print(wrong)
        return 1
    if checked.wrong:
        print("\n".join(checked.wrong))
        return 1
    print(f"Sound. {checked.words}.")
    return 0


def _repair(folder: Path) -> int:
    mended = mend_folder(folder, now())
    saved = mended.salvaged
    if saved is None:
        print("The database is sound.")
    else:
        print(f"The damaged database is in {mended.aside}. Saved into a new one:")
        for table, count in saved.rows.items():
            lost = saved.lost.get(table, 0)
            missing = f", up to {lost} missing" if lost else ""
            if count or lost:
                print(f"  {table}: {count}{missing}")
        for table in saved.unread:
            print(f"  {table}: nothing could be read")
        if saved.whole:
            print("Nothing is missing.")
    if mended.ended:
        print(f"{mended.ended} takes that nobody had ended were ended.")
    if mended.measured:
        print(f"{mended.measured} results were made anew.")
    return 0 if saved is None or saved.whole else 1


def run_pair(args: argparse.Namespace) -> int:
    code, expires_at = new_code(_existing(args.data), args.role, now())
    print(f"{code}  (pairs one {args.role}, until {expires_at[11:16]} UTC)")
    return 0
