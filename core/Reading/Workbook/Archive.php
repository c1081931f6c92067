<?php

namespace Baggage\Core\Reading\Workbook;

/** Port: a zip archive whose members are read as streams of bytes. */
interface Archive
{
    /** @return list<string> */
    public function names(): array;

    /**
     * @return \Generator<string>
     *
     * @throws \Baggage\Core\Reading\ReadingError when the member is missing, damaged, or suspiciously large for its packed size
     */
    public function chunks(string $name): \Generator;
}
