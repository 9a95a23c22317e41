"""Texts that are not UTF-8: Windows-1252 unless another encoding is clearly better, and the words that differ."""

from pathlib import Path

import pytest

from culvix.tables import read_table
from culvix.tables.reading.encodings import infer_encoding

WORDS = {
    "cp1252": ("temp °C", "Köln", "Año", "Hélène", "£", "Betrag in €", "Zoë", "São Paulo", "5 µg", "½", "Øre", "Œuvre"),
    "cp1251": ("Привет", "Москва", "вода, лёд"),
    "koi8_r": ("Привет, мир", "Озеро Байкал"),
    "cp1250": ("łódź", "Łódź, Kraków", "źródło"),
    "mac_roman": ("Köln", "Hélène"),
    "cp850": ("Köln", "Größe"),
    "cp1253": ("Αθήνα", "θερμοκρασία"),
    "shift_jis": ("サンプル", "さかな"),
    "euc_kr": ("서울", "물고기"),
    "gb18030": ("测量值和温度",),
}


@pytest.mark.parametrize(("encoding", "word"), [(name, word) for name, words in WORDS.items() for word in words])
def test_words_come_out_as_they_were_written(encoding: str, word: str) -> None:
    data = f"name,x\n{word},1\n".encode(encoding)
    inferred = infer_encoding(data)
    assert inferred is not None and data.decode(inferred.name) == data.decode(encoding)


def test_the_words_that_differ_between_the_two_best_readings_are_asked_about(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_bytes("town,x\nKöln,1\nUlm,2\nZoë,3\n".encode("cp1252"))
    table = read_table(path)
    assert table.source.encoding == "Windows-1252" and table["town"].cell(0) == "Köln"
    (asked,) = table.source.questions
    assert asked.kind == "encoding" and asked.choices[0].gives.startswith("Köln") and asked.choices[0].in_force
    other = asked.choices[1]
    assert other.gives != asked.choices[0].gives
    again = read_table(path, table.source.options.answered(table.source.dialect, other.change))
    assert again["town"].cell(0) in other.gives and not again.source.questions


def test_bytes_that_are_no_text_have_no_encoding() -> None:
    assert infer_encoding(bytes(range(1, 256)) * 20) is None
