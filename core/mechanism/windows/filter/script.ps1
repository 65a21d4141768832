# Has the keyboard filter of Windows block chords for all users. With -Lift, what it has blocked is so no longer.
# What was blocked by others before stays. Runs as an administrator, in the system's own PowerShell.
param([switch]$Lift)
$ErrorActionPreference = 'Stop'
# An id, or modifiers and the make code of a key.
$wanted = @(
)
$administrators = 'DisableKeyboardFilterForAdministrators'
if ($Lift) { $wanted = @() } else { $wanted += $administrators }
$filter = @{ Namespace = 'root\standardcimv2\embedded' }
$noted = Join-Path $PSScriptRoot 'blocked.txt'

function Find-Entry([string]$entry) {
    $first, $code = $entry.Split(' ')
    if ($entry -eq $administrators) {
        Get-WmiObject -Class WEKF_Settings @filter | Where-Object { $_.Name -eq $first }
    } elseif ($code) {
        Get-WmiObject -Class WEKF_Scancode @filter | Where-Object { $_.Modifiers -eq $first -and $_.Scancode -eq $code }
    } else {
        Get-WmiObject -Class WEKF_PredefinedKey @filter | Where-Object { $_.Id -eq $first }
    }
}

function Test-Entry([string]$entry) {
    $found = Find-Entry $entry
    if ($entry -eq $administrators) { $found.Value -eq 'false' } else { $found -and $found.Enabled }
}

function Set-Entry([string]$entry, [bool]$on) {
    $first, $code = $entry.Split(' ')
    $found = Find-Entry $entry
    if ($entry -eq $administrators) {
        $found.Value = if ($on) { 'false' } else { 'true' }
        [void]$found.Put()
    } elseif ($found) {
        $found.Enabled = $on
        [void]$found.Put()
    } elseif ($on -and $code) {
        $of = @{ Modifiers = $first; Scancode = [uint16]$code; Enabled = $true }
        [void](Set-WmiInstance -Class WEKF_Scancode -Arguments $of @filter)
    } elseif ($on) {
        throw "The keyboard filter has no $entry."
    }
}

$ours = @()
if (Test-Path $noted) { $ours = @(Get-Content $noted) }
foreach ($entry in $ours) {
    if ($wanted -notcontains $entry) { Set-Entry $entry $false }
}
# What is ours is noted before it is set, so that nothing is left behind whatever happens.
$ours = @($wanted | Where-Object { $ours -contains $_ -or -not (Test-Entry $_) })
if ($ours) { Set-Content -Path $noted -Value $ours -Encoding Ascii } elseif (Test-Path $noted) { Remove-Item $noted }
foreach ($entry in $wanted) { Set-Entry $entry $true }
