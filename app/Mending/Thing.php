<?php

namespace App\Mending;

/** Something of a migration that can be renamed, changed or removed, with what hangs on it. */
interface Thing
{
    /** In words, as a log says it: "the extract BB/craft". */
    public function label(): string;

    /**
     * What can be changed.
     *
     * @return array<string, array{label: string, value: string, secret?: bool, choices?: array<int|string, string>}>
     */
    public function fields(): array;

    /** @return list<string> what goes with it, or is otherwise without it, in sentences */
    public function hangs(): array;

    /** @return list<string> why it cannot be removed now, in sentences */
    public function holds(): array;

    /**
     * @param  array<string, string>  $values  by field; those that are the same are left out
     *
     * @throws \DomainException where it cannot be so; nothing is changed then
     */
    public function change(array $values): void;

    /** Deletes it with what hangs on it. May take long where rows are concerned. */
    public function remove(): void;

    /** Where one goes when it is gone. */
    public function after(): string;
}
