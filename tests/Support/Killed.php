<?php

namespace Tests\Support;

/** The process ended here. */
final class Killed extends \RuntimeException
{
}
