<?php

namespace Baggage\Core\Reading\Dbase;

use Baggage\Core\Reading\Encoding;
use Baggage\Core\Reading\Format;

/** A dBase III or IV table (.dbf). */
final readonly class DbaseFormat implements Format
{
    /**
     * @param  Encoding|null  $encoding  null: as the file's own language byte says
     * @param  bool  $deleted  whether rows marked as deleted are read too
     */
    public function __construct(public ?Encoding $encoding = null, public bool $deleted = false)
    {
    }

    public static function kind(): string
    {
        return 'dbase';
    }

    public static function fromArray(array $a): self
    {
        return new self(
            ($a['encoding'] ?? '') === '' ? null : Encoding::named((string) $a['encoding']),
            (bool) ($a['deleted'] ?? false),
        );
    }

    public function toArray(): array
    {
        return array_filter(
            ['encoding' => $this->encoding?->value, 'deleted' => $this->deleted ?: null],
            fn ($v) => $v !== null,
        );
    }

    public function describe(): string
    {
        return 'dBase'.($this->encoding === null ? '' : ", {$this->encoding->value}");
    }
}
