<?php

namespace App\Models;

enum Role: string
{
    case Lead = 'lead';
    case Consultant = 'consultant';
    case Reviewer = 'client reviewer';
    case Auditor = 'auditor';

    /** Mapping, loading and everything that defines the migration. */
    public function works(): bool
    {
        return $this === self::Lead || $this === self::Consultant;
    }

    /** Repairing values and codes: the client knows them best. */
    public function repairs(): bool
    {
        return $this !== self::Auditor;
    }
}
