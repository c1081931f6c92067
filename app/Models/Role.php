<?php

namespace App\Models;

/** What somebody is in one migration. */
enum Role: string
{
    case Lead = 'lead';
    case Consultant = 'consultant';
    case Reviewer = 'client reviewer';
    case Auditor = 'auditor';

    /** @return list<Right> */
    public function rights(): array
    {
        return match ($this) {
            self::Lead => Right::cases(),
            self::Consultant => [Right::View, Right::Work, Right::Repair],
            self::Reviewer => [Right::View, Right::Repair],
            self::Auditor => [Right::View, Right::Audit],
        };
    }

    /** Whether it is one of the client's own people, whose way in is what they have to answer. */
    public function isOfTheClient(): bool
    {
        return $this === self::Reviewer;
    }

    public function may(Right $right): bool
    {
        return in_array($right, $this->rights(), true);
    }
}
