<?php

namespace Baggage\Core\Rows;

/** What became of a correction in a take: only what is carried is laid over the row, the others wait for a decision. */
enum CorrectionState: string
{
    /** The row is there with the value that was corrected. */
    case Carried = 'carried';

    /** The source says now what the correction says. */
    case Confirmed = 'confirmed';

    /** The source says a third thing. */
    case Contradicted = 'contradicted';

    /** The row, or the column, is not there, or its key is there twice. */
    case WithoutRow = 'without_row';

    /**
     * @param  bool  $placed  whether the row was found
     * @param  string|null  $found  what the source says now
     */
    public static function of(bool $placed, ?string $found, ?string $old, ?string $new): self
    {
        return match (true) {
            ! $placed => self::WithoutRow,
            $found === $old => self::Carried,
            $found === $new => self::Confirmed,
            default => self::Contradicted,
        };
    }

    public function waits(): bool
    {
        return $this !== self::Carried;
    }

    public function label(): string
    {
        return match ($this) {
            self::Carried => 'carried',
            self::Confirmed => 'the source says it now',
            self::Contradicted => 'the source says something else now',
            self::WithoutRow => 'its row is not there',
        };
    }
}
