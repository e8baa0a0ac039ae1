// The loft: contacts, a number, two digits

// a contact that has been still for 8 ms
module contact(
  input clk,
  input pin,
  output reg closed,
  output reg closes
);
  reg [16:0] still;
  reg a, b;
  initial begin
    a = 1; b = 1; still = 0; closed = 0; closes = 0;
  end
  always @(posedge clk) begin
    a <= pin;
    b <= a;
    closes <= 0;
    if (b == ~closed)
      still <= 0;
    else if (still < 17'd96000)
      still <= still + 1'b1;
    else begin
      still <= 0;
      closed <= ~b;
      closes <= ~b;
    end
  end
endmodule

module figure(input [3:0] n, input dark, output reg [6:0] seg);
  always @(*)
    if (dark)
      seg = 7'h00;
    else
      case (n)
        4'd0: seg = 7'h3f;
        4'd1: seg = 7'h06;
        4'd2: seg = 7'h5b;
        4'd3: seg = 7'h4f;
        4'd4: seg = 7'h66;
        4'd5: seg = 7'h6d;
        4'd6: seg = 7'h7d;
        4'd7: seg = 7'h07;
        4'd8: seg = 7'h7f;
        4'd9: seg = 7'h6f;
        default: seg = 7'h40;
      endcase
endmodule

module loft(
  input clk,
  input in_n,
  input out_n,
  output [6:0] seg,
  output tens_on,
  output ones_on,
  output empty,
  output many
);
  wire in_closes, out_closes, in_closed, out_closed;
  contact c1(clk, in_n, in_closed, in_closes);
  contact c2(clk, out_n, out_closed, out_closes);

  reg [3:0] tens, ones;
  initial begin
    tens = 1;
    ones = 2;
  end
  wire none = tens == 0 && ones == 0;
  wire most = tens == 3;

  always @(posedge clk)
    if (in_closes && !most) begin
      if (ones == 9) begin
        ones <= 0;
        tens <= tens + 1;
      end else
        ones <= ones + 1;
    end else if (out_closes && !none) begin
      if (ones == 0) begin
        ones <= 9;
        tens <= tens - 1;
      end else
        ones <= ones - 1;
    end

  // 12 MHz / 2^15: 366 changes of the digit a second
  reg [15:0] slow = 0;
  always @(posedge clk) slow <= slow + 1;
  assign ones_on = ~slow[15];
  assign tens_on = slow[15];
  figure f(slow[15] ? tens : ones, slow[15] && tens == 0, seg);

  reg [21:0] quarter = 0;
  reg blink = 0;
  always @(posedge clk)
    if (!none) begin
      quarter <= 0;
      blink <= 1;
    end else if (quarter == 22'd2999999) begin
      quarter <= 0;
      blink <= ~blink;
    end else
      quarter <= quarter + 1;
  assign empty = none & blink;
  assign many = tens >= 2;
endmodule
