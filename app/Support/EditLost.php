<?php

namespace App\Support;

/** Somebody else changed a text while a form with it was open. Nothing of the form was kept; both texts are shown. */
final class EditLost extends \RuntimeException
{
    /** @param  non-empty-list<array{what: string, theirs: string, mine: string}>  $texts */
    private function __construct(public readonly array $texts)
    {
        parent::__construct('Somebody else changed this while you had it open. Nothing of yours was kept; here are both.');
    }

    /** In one text, for where there is no page. */
    public function said(): string
    {
        $each = array_map(fn (array $text) => "$text[what]: \"$text[theirs]\" now, yours was \"$text[mine]\"", $this->texts);

        return 'Somebody else changed this meanwhile, and nothing of yours was kept. '.implode('; ', $each).'.';
    }

    /** @param  non-empty-list<array{what: string, theirs: string, mine: string}>  $texts */
    public static function of(array $texts): self
    {
        return new self($texts);
    }
}
